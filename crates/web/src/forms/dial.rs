//! Settings as they are typed: by the marks of the motor's own dial.

use super::Reader;
use lake_hour_core::allowed;
use lake_hour_core::rig::Dial;

/// A setting, 0 to 10.
pub(crate) fn setting(r: &mut Reader<'_>, name: &str, dial: &Dial) -> Option<f64> {
    if *dial == Dial::Tenths {
        return r.number(name, &allowed::SETTING);
    }
    let text = r.text(name)?.trim();
    let at = dial.at(text);
    if at.is_none() {
        let says = match dial {
            Dial::Marks { besides, .. }
                if besides.iter().any(|mark| mark.eq_ignore_ascii_case(text)) =>
            {
                format!(
                    "{text} is no speed ahead. To hold a place, give the stretch as holding position."
                )
            }
            Dial::Marks { ahead, .. } => format!(
                "Your dial has {}: type one of them, as in {}.",
                ahead.join(", "),
                ahead.last().map_or("1", String::as_str)
            ),
            _ => "Your dial goes from 0 to 100 %: type a percent, as in 60.".to_owned(),
        };
        r.problem(name, says);
    }
    at
}

/// The same, or nothing.
pub(crate) fn setting_if(r: &mut Reader<'_>, name: &str, dial: &Dial) -> Option<Option<f64>> {
    if r.is_blank(name) { Some(None) } else { setting(r, name, dial).map(Some) }
}
