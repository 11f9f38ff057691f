//! What the pieces of a label look like, in the words of shops and of four languages.

use regex::Regex;
use std::sync::LazyLock;

/// A figure: 1,280 or 12.8 or 3500.
const N: &str = r"(\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+(?:\.\d+)?)";

macro_rules! figure {
    ($name:ident, $before:literal, $after:literal) => {
        pub(super) static $name: LazyLock<Option<Regex>> =
            LazyLock::new(|| Regex::new(&format!("(?i){}{N}{}", $before, $after)).ok());
    };
}

pattern!(
    LFP,
    r"(?i)\blife?\s?po\s?4\b|\blfp\b|lithium[\s-](?:iron|eisen|fer\b|ferro)\w*|(?:lithium|litio)\W{1,3}(?:fer|hierro)\b"
);
pattern!(NMC, r"(?i)\bnmc\b|nickel[\s-]manganese");
pattern!(AGM, r"(?i)\bagm\b|absorbed glass|absorbent glass|glasvlies");
pattern!(GEL, r"(?i)\bgel\b|gelled|bleigel|\bgelbatterie");
pattern!(
    FLOODED,
    r"(?i)\bflooded\b|wet[\s-]cell|\bvented lead|nassbatterie|nasszelle|plomb ouvert|plomo abierto|acide libre"
);
pattern!(LITHIUM, r"(?i)\blithium\b|\blitio\b|li-ion");
pattern!(BUILD, r"(?i)\b(prismatic|cylindrical|spiral|semi[\s-]?solid)\b");
pattern!(PURPOSE, r"(?i)\b(deep[\s-]cycle|dual[\s-]purpose|starting battery)\b");
pattern!(
    GROUP,
    r"(?i)\b(?:bci|group|grp\.?)(?:\s*size)?(?:\s*group)?\W{0,3}(u1|22nf|24|27|31|34|4d|8d|gc2h?|gc8|gc12)\b|\b(gc2h?|gc8|gc12|u1)\b"
);
// L 12.93" W 6.77" H 9.37", or one side a line: "Length: 330 mm".
pattern!(
    SIDE,
    r#"(?i)(?:^|[^a-z\u{e0}-\u{ff}])(length|l\u{e4}nge|longueur|longitud|largo|width|breite|largeur|ancho|anchura|depth|tiefe|profondeur|fondo|total height|height|h\u{f6}he|hauteur|altura|alto|[lwbhdt])(?:[\s:.=(]|\binkl\.?|\bpol\w*)*(\d+(?:\.\d+)?(?:\s+\d+/\d+)?)\s*("|in\b|inch(?:es)?\b|mm\b|cm\b)?"#
);
pattern!(
    CLEARANCE,
    r#"(?i)(\d[\d\s./]*?)\s*("|in\b|inch(?:es)?\b|mm\b|cm\b)?\s*\(?[lwhd]?\)?\s*(?:x|×|\*|by)\s*(\d[\d\s./]*?)\s*("|in\b|inch(?:es)?\b|mm\b|cm\b)?\s*\(?[lwhd]?\)?\s*(?:x|×|\*|by)\s*(\d+(?:\s+\d+/\d+|\.\d+|/\d+)?)\s*("|in\b|inch(?:es)?\b|mm\b|cm\b)"#
);
figure!(EQUIVALENT, r"(?:lead[\s-]?(?:acid[\s-])?equivalent|pb[\s-]?eq)[^\d\n]{0,24}", r"\s*ah\b");
figure!(EQUIVALENT_AFTER, "", r"\s*ah\W{0,4}(?:lead[\s-]?(?:acid[\s-])?equivalent|pb[\s-]?eq)");
figure!(
    AH_AT,
    "",
    r"\s*ah\b(?:\W{0,4}(?:at|@|over)?\W{0,3}(?:c[/]?)?(\d{1,3})\s*-?\s*(?:hours?|hrs?|h|std|stunden|heures|horas)\b)?"
);
figure!(KWH, "", r"\s*kwh\b");
figure!(WH, "", r"\s*wh\b");
figure!(
    RESERVE,
    r"(?:reserve(?: capacity)?|reservekapazit\u{e4}t|capacit\u{e9} de r\u{e9}serve|capacidad de reserva|\brc)[^\d\n]{0,30}",
    r"(?:\s*min(?:utes)?\b)?(?:\s*(?:at|@)\s*25\s*a(?:mps?)?\b)?(\s*(?:v|ah|wh|kwh)\b)?"
);
pub(super) static RUN: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(&format!(r"(?i){N}\s*min(?:utes)?\s*(?:at|@)\s*{N}\s*a(?:mps?)?\b")).ok()
});
figure!(
    CCA,
    r"(?:\bcca\b|cold[\s-]cranking(?:[\s-]amps?)?|kaltstart\w*|d\u{e9}marrage \u{e0} froid|arranque en fr\u{ed}o)[^\d\n]{0,12}",
    r"(?:\s*a(?:mps?)?\b)?"
);
figure!(CCA_AFTER, "", r"\s*(?:a\s*)?(?:\(?en\)|cca\b|cold[\s-]cranking)");
figure!(MARINE_AFTER, "", r"\s*(?:a\s*)?(?:mca|hca|ca)\b");
figure!(
    MARINE,
    r"(?:\bmca\b|\bhca\b|\bca\b|marine cranking(?: amps)?)[^\d\n]{0,12}",
    r"(?:\s*a(?:mps?)?\b)?"
);
figure!(AMPS, "", r"\s*a(?:mps?|mperes?)?\b");
figure!(SECONDS, "", r"\s*s(?:ec(?:onds?)?)?\b");
figure!(VOLTS, "", r"\s*v(?:olts?|dc|cc)?\b");
figure!(MILLIOHM, "", r"\s*(?:m\s*(?:Ω|ω|Ω)|milli-?ohms?|mohms?)");
figure!(POUNDS, "", r"\s*(?:lbs?|pounds?)\b");
figure!(KILOGRAMS, "", r"\s*(?:kgs?|kilograms?|kilogramm|kilos?)\b");
figure!(PRICE, r"(?:\$|€|£|usd|eur\b|price|preis|prix|precio)\s*:?\s*[\$€£]?\s*", r"");
figure!(PRICE_AFTER, "", r"\s*(?:€|eur\b|usd\b|\$)");
pub(super) static CYCLES: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(&format!(
        r"(?i){N}\s*\+?\s*(?:deep\s+)?(?:charge\s+|lade)?(?:cycles|zyklen|ciclos|times)(?:[^\d\n%]{{0,12}}(\d{{1,3}})\s*%)?|(?:cycles?|zyklen\w*|ciclos|dur\u{{e9}}e de vie)(?:\s+life)?(?:\W{{0,6}}(?:at|@|bei|\u{{e0}}|al)?\W{{0,3}}(\d{{1,3}})\s*%[^\d\n]{{0,10}})?[^\d\n]{{0,8}}{N}\s*\+?(?:[^\d\n%]{{0,12}}(\d{{1,3}})\s*%)?"
    ))
    .ok()
});
figure!(
    LIFE,
    r"(?:(?:design|service|calendar|expected)\s+life|lebensdauer|dur\u{e9}e de vie|vida \u{fa}til)[^\d\n]{0,16}",
    r"\s*\+?\s*(?:years?|yrs?|jahre\w*|ans\b|a\u{f1}os)"
);
figure!(YEARS, "", r"[\s-]*(?:years?|yrs?|jahre?\w*|ans?|a\u{f1}os?)\b");
figure!(MONTHS, "", r"[\s-]*(?:months?|mos?|monate?|mois|meses)\b");
figure!(
    SELF,
    r"(?:self[\s-]?discharge|selbstentladung|auto-?d\u{e9}charge|autodescarga)[^\d\n]{0,16}",
    r"\s*%"
);
pattern!(INGRESS, r"(?i)\bip\s?(\d{2}k?)\b");
pattern!(
    TERMINALS,
    r"(?i)\b(M(?:5|6|8|10))\b(?:\s*(?:bolts?|studs?|terminals?))?|terminals?\W{1,4}([a-z][\w /-]{1,24})"
);
pattern!(NO_HEATER, r"(?i)\b(?:no|without)\s+(?:self-?)?heat|heat(?:er|ing)\W{1,4}no\b");
pattern!(HEATER, r"(?i)\bself-?\s?heat|\bheater\b|\bheated\b|built-in heat");
pattern!(
    MONITOR,
    r"(?i)\bbluetooth\b|\bbattery monitor\b|\bshunt\b|state[\s-]of[\s-]charge display"
);
// "Discharge -4F to 122F", "Laden: 0 bis 45 °C".
pattern!(
    WARMTHS,
    r"(?i)(-?\d+)\s*(?:\u{b0}|\u{ba}|deg(?:rees)?)?\s*([fc])?\s*(?:to|-|~|bis|\u{e0}|a|\.\.\.?|\u{2026})\s*\+?(-?\d+)\s*(?:\u{b0}|\u{ba}|deg(?:rees)?)?\s*([fc])\b"
);
pattern!(COLD, r"(?i)(?:low[\s-]temp|cold)[^\n]{0,60}?(-?\d+)\s*(?:°|º|deg(?:rees)?)?\s*([fc])\b");
figure!(
    SERIES,
    r"(?:up to|max(?:imum)?\.?(?: of)?|most)\s*",
    r"\s*(?:units?\s*|batteries\s*)?in series"
);
