//! The rules for one line of a label: each takes the piece it knows, so that no later one sees it.

use super::patterns::*;
use super::{Found, Understood};
use lake_hour_core::allowed;
use lake_hour_core::shelf::figures::{self, Group, Holds, Label, Value};
use lake_hour_core::shelf::{CyclePoint, Rating, SizeClass};
use lake_hour_core::units::convert::{KG_PER_LB, MM_PER_INCH};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Amps, Hours};
use regex::{Captures, Regex};
use std::sync::LazyLock;

/// No figure of any label: a row of digits that means something else.
const LARGEST: f64 = 1e12;

/// A figure as it was printed.
fn value(text: &str) -> Option<f64> {
    text.replace(',', "").parse().ok().filter(|v: &f64| v.is_finite() && v.abs() < LARGEST)
}

/// One line while its pieces are taken.
struct Line<'a> {
    text: String,
    units: System,
    into: &'a mut Understood,
    any: bool,
}

impl Line<'_> {
    /// Takes the first piece that matches, so that no later rule sees it. `None` where nothing does.
    fn take<'p>(&mut self, pattern: &'p LazyLock<Option<Regex>>) -> Option<Vec<Option<String>>> {
        let pattern: &'p Regex = pattern.as_ref()?;
        let found: Captures<'_> = pattern.captures(&self.text)?;
        let whole = found.get(0)?;
        let groups =
            (0..found.len()).map(|n| found.get(n).map(|m| m.as_str().trim().to_owned())).collect();
        let (from, to) = (whole.start(), whole.end());
        // A mark that is no space, so that what stood apart does not run together.
        self.text.replace_range(from..to, " \u{1} ");
        Some(groups)
    }

    fn number(&mut self, pattern: &'static LazyLock<Option<Regex>>) -> Option<(String, f64)> {
        let groups = self.take(pattern)?;
        let piece = groups.first().cloned().flatten()?;
        Some((piece, value(groups.get(1)?.as_deref()?)?))
    }

    fn is(&self, pattern: &LazyLock<Option<Regex>>) -> bool {
        pattern.as_ref().is_some_and(|p| p.is_match(&self.text))
    }

    fn has(&self, words: &[&str]) -> bool {
        let lower = self.text.to_lowercase();
        words.iter().any(|w| lower.contains(w))
    }

    /// Whether the line speaks of charging, in the languages that labels come in.
    fn is_charging(&self) -> bool {
        self.has(&["charg", "lade", "carga"]) && !self.is_discharging()
    }

    fn is_discharging(&self) -> bool {
        self.has(&["discharg", "entlade", "descarga", "d\u{e9}charg", "decharg"])
    }

    fn say(&mut self, text: impl Into<String>, meaning: impl Into<String>) {
        self.any = true;
        let text = text.into().replace('\u{1}', "").trim().to_owned();
        self.into.found.push(Found { text, meaning: meaning.into() });
    }

    fn doc(&mut self) -> &mut Label {
        &mut self.into.label
    }
}

pub(super) fn one_line(line: &str, into: &mut Understood, units: System) -> bool {
    let mut l = Line { text: line.to_owned(), units, into, any: false };
    named(&mut l);
    kinds(&mut l);
    capacity(&mut l);
    currents(&mut l);
    promises(&mut l);
    measures(&mut l);
    volts(&mut l);
    if !l.any {
        by_its_name(&mut l);
    }
    l.any
}

/// "Seller: Reedmarsh Supply": a figure that no rule speaks of, by what it is called in a form.
fn by_its_name(l: &mut Line<'_>) {
    let Some((called, rest)) = l.text.split_once(':') else { return };
    let (called, rest) = (called.trim().to_lowercase(), rest.trim().to_owned());
    let named = figures::FIGURES.iter().filter(|f| f.group == Group::Trade).flat_map(|f| f.fields);
    let Some(field) = named.into_iter().find(|f| f.label.to_lowercase() == called) else { return };
    let value = match &field.holds {
        Holds::Number(_) => value(&rest).map(Value::Number),
        _ => allowed::text(&rest, allowed::TEXT_LENGTH).ok().map(Value::Text),
    };
    if value.is_some() {
        l.doc().set(field, value);
        l.say(rest, called);
    }
}

/// "Name: ..." or "Model: ...".
fn named(l: &mut Line<'_>) {
    let Some((key, rest)) = l.text.split_once(':') else { return };
    let (key, rest) = (key.trim().to_lowercase(), rest.trim().to_owned());
    if matches!(key.as_str(), "name" | "model" | "product" | "battery") && !rest.is_empty() {
        let name: String = rest.chars().take(80).collect();
        l.say(name.clone(), "name");
        l.doc().put("name", name);
    }
}

fn kinds(l: &mut Line<'_>) {
    if l.doc().text("chemistry").is_none() {
        let known =
            [(&LFP, "lfp"), (&NMC, "nmc"), (&AGM, "agm"), (&GEL, "gel"), (&FLOODED, "flooded")];
        for (pattern, key) in known {
            if let Some(found) = l.take(pattern) {
                l.doc().put("chemistry", key);
                l.say(found[0].clone().unwrap_or_default(), format!("chemistry: {key}"));
                break;
            }
        }
        if l.doc().text("chemistry").is_none() && l.is(&LITHIUM) {
            l.doc().put("chemistry", "lfp");
            l.say("lithium", "chemistry: taken for LFP, the usual lithium of this trade");
        }
    }
    if let Some(found) = l.take(&BUILD).and_then(|g| g[0].clone()) {
        let key = found.to_lowercase().replace([' ', '-'], "_").replace("semisolid", "semi_solid");
        l.doc().put("build", key);
        l.say(found, "build");
    }
    if let Some(found) = l.take(&PURPOSE).and_then(|g| g[0].clone()) {
        let key =
            found.to_lowercase().replace([' ', '-'], "_").replace("starting_battery", "starting");
        l.doc().put("purpose", key);
        l.say(found, "made for");
    }
    if let Some(groups) = l.take(&GROUP)
        && let Some(class) =
            groups[1].as_deref().or(groups[2].as_deref()).and_then(SizeClass::from_name)
    {
        l.doc().put("size_class", class.name().to_owned());
        l.say(groups[0].clone().unwrap_or_default(), format!("standard size {}", class.name()));
    }
}

fn capacity(l: &mut Line<'_>) {
    for pattern in [&EQUIVALENT, &EQUIVALENT_AFTER] {
        if let Some((text, ah)) = l.number(pattern) {
            l.doc().put("lead_equivalent_ah", ah);
            l.say(text, format!("{ah} \u{201c}lead-equivalent\u{201d} Ah: not a capacity"));
        }
    }
    if let Some(groups) = l.take(&RUN)
        && let (Some(minutes), Some(amps)) =
            (groups[1].as_deref().and_then(value), groups[2].as_deref().and_then(value))
    {
        let text = groups[0].clone().unwrap_or_default();
        let rating = Rating::Runtime { at: Amps::of(amps), lasted: Hours::from_minutes(minutes) };
        if rating.is_reserve() {
            l.doc().put("reserve_minutes_25a", minutes);
        } else {
            l.doc().add_rating(rating);
        }
        l.say(text, format!("{minutes} minutes at {amps} A"));
    }
    // "Reserve AGM 12 V": a figure of another kind that happens to come next.
    let other = RESERVE.as_ref().and_then(|p| p.captures(&l.text)?.get(2)).is_some();
    if !other && let Some((text, minutes)) = l.number(&RESERVE) {
        l.doc().put("reserve_minutes_25a", minutes);
        l.say(text, format!("reserve capacity: {minutes} minutes at 25 A"));
    }
    if let Some((text, kwh)) = l.number(&KWH) {
        l.doc().put("energy_wh", kwh * 1000.0);
        l.say(text, format!("{} Wh as printed", kwh * 1000.0));
    } else if let Some((text, wh)) = l.number(&WH) {
        l.doc().put("energy_wh", wh);
        l.say(text, format!("{wh} Wh as printed"));
    }
    while let Some(groups) = l.take(&AH_AT) {
        let Some(ah) = groups[1].as_deref().and_then(value) else { break };
        let hours = groups[2].as_deref().and_then(value).filter(|h| *h > 0.0);
        let label = l.doc();
        let meaning = match (label.number("capacity_ah"), hours) {
            (None, hours) => {
                label.put("capacity_ah", ah);
                if let Some(hours) = hours {
                    label.put("capacity_hours", hours);
                }
                format!("capacity {ah} Ah")
            }
            (Some(before), Some(hours)) if (before - ah).abs() > 1e-9 => {
                label.add_rating(Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(hours) });
                format!("also {ah} Ah")
            }
            (Some(before), hours) if (before - ah).abs() < 1e-9 => {
                if let (None, Some(hours)) = (label.number("capacity_hours"), hours) {
                    label.put("capacity_hours", hours);
                }
                "capacity once more".to_owned()
            }
            _ => "another capacity, without its hours: left out".to_owned(),
        };
        let over = hours.map(|h| format!(" over {h} h")).unwrap_or_default();
        l.say(groups[0].clone().unwrap_or_default(), format!("{meaning}{over}"));
    }
}

fn currents(l: &mut Line<'_>) {
    // "850 CCA / 1000 CA": the figure before its own letters wins.
    if let Some((text, amps)) = l.number(&CCA_AFTER).or_else(|| l.number(&CCA)) {
        l.doc().put("cranking_a", amps);
        l.say(text, format!("{amps} cold cranking amps: never turned into Ah"));
    }
    if let Some((text, _)) = l.number(&MARINE_AFTER).or_else(|| l.number(&MARINE)) {
        l.say(text, "cranking amps of another test: left out");
    }
    // "150 A peak for 10 s, 60 A continuous": each clause speaks of its own amps.
    let clauses: Vec<String> = l.text.split([',', ';']).map(str::to_owned).collect();
    let mut rest = Vec::new();
    for clause in clauses {
        l.text = clause;
        one_current(l);
        rest.push(std::mem::take(&mut l.text));
    }
    l.text = rest.join(",");
}

fn one_current(l: &mut Line<'_>) {
    let charging = l.is_charging();
    let peak =
        l.has(&["peak", "surge", "burst", "pulse", "spitze", "pointe", "pico", "cr\u{ea}te"]);
    let steady = l.has(&["continuous", "dauer", "continu"]);
    let long = steady
        || l.has(&[
            "max discharge",
            "maximum discharge",
            "max. discharge",
            "discharge current",
            "bms",
            "entladestrom",
            "descarga",
            "d\u{e9}charge",
        ]);
    // "Discharge current 230 A (5 s)": what is borne for seconds is the peak, whatever it is called.
    let brief = !steady && l.is(&SECONDS);
    if !(peak || long || brief) || charging {
        return;
    }
    if let Some((text, amps)) = l.number(&AMPS) {
        if (peak || brief) && !(long && l.is(&AMPS)) {
            l.doc().put("peak_current_a", amps);
            let seconds = l.number(&SECONDS);
            if let Some((_, seconds)) = &seconds {
                let seconds = *seconds;
                l.doc().put("peak_seconds", seconds);
            }
            let during = seconds.map(|s| format!(" for {} s", s.1)).unwrap_or_default();
            l.say(text, format!("peak current {amps} A{during}"));
        } else {
            l.doc().put("max_continuous_current_a", amps);
            l.say(text, format!("continuous current {amps} A"));
            // "100 A continuous, 200 A peak (5 s)" on one line.
            if peak && let Some((text, amps)) = l.number(&AMPS) {
                l.doc().put("peak_current_a", amps);
                if let Some((_, seconds)) = l.number(&SECONDS) {
                    l.doc().put("peak_seconds", seconds);
                }
                l.say(text, format!("peak current {amps} A"));
            }
        }
    }
}

fn promises(l: &mut Line<'_>) {
    while let Some(groups) = l.take(&CYCLES) {
        let pick = |all: &[usize]| all.iter().find_map(|n| value(groups[*n].as_deref()?));
        let Some(cycles) = pick(&[1, 4]) else { break };
        let depth = pick(&[2, 3, 5]).filter(|d| (1.0..=100.0).contains(d));
        let depth = depth.map_or(CyclePoint::USUAL_DEPTH, |d| d / 100.0);
        l.doc().add_cycles(CyclePoint { depth, cycles });
        l.say(
            groups[0].clone().unwrap_or_default(),
            format!("{cycles} cycles at {:.0} % depth", depth * 100.0),
        );
    }
    if let Some((text, years)) = l.number(&LIFE) {
        l.doc().put("calendar_years", years);
        l.say(text, format!("calendar life {years} years"));
    }
    if l.has(&["warrant", "guarantee", "garant"]) {
        warranty(l);
    }
    if let Some((text, percent)) = l.number(&SELF) {
        l.doc().put("self_discharge_month", percent / 100.0);
        l.say(text, format!("{percent} % lost in a month"));
    }
    warmths(l);
    if let Some(groups) = l.take(&COLD)
        && let Some(degrees) = groups[1].as_deref().and_then(|d| d.parse::<f64>().ok())
    {
        let fahrenheit = groups[2].as_deref().is_some_and(|u| u.eq_ignore_ascii_case("f"));
        let celsius = if fahrenheit { (degrees - 32.0) / 1.8 } else { degrees };
        l.doc().put("cold_cutoff_c", (celsius * 10.0).round() / 10.0);
        let below = l.units.say(Measure::Temperature, celsius, 0);
        l.say(groups[0].clone().unwrap_or_default(), format!("no charge below {below}"));
    }
    if l.is(&NO_HEATER) {
        l.doc().put("heater", false);
        l.say("no heater", "no heater");
    } else if let Some(found) = l.take(&HEATER) {
        l.doc().put("heater", true);
        l.say(found[0].clone().unwrap_or_default(), "warms itself");
    }
    if let Some(found) = l.take(&MONITOR) {
        l.doc().put("monitor", true);
        l.say(found[0].clone().unwrap_or_default(), "battery monitor");
    }
    if let Some(found) = l.take(&INGRESS) {
        let rating = format!("IP{}", found[1].as_deref().unwrap_or_default().to_uppercase());
        l.doc().put("ingress", rating.clone());
        l.say(found[0].clone().unwrap_or_default(), rating);
    }
    if let Some((text, most)) = l.number(&SERIES) {
        l.doc().put("max_series", most);
        l.say(text, format!("at most {most} in series"));
    }
}

/// From how cold to how warm it may be charged; what else has such a range is told and not needed.
fn warmths(l: &mut Line<'_>) {
    let line_charges = l.is_charging();
    while let Some(groups) = l.take(&WARMTHS) {
        let fahrenheit = groups[4]
            .as_deref()
            .or(groups[2].as_deref())
            .is_some_and(|u| u.eq_ignore_ascii_case("f"));
        let celsius = |n: usize| {
            let degrees = groups[n].as_deref()?.parse::<f64>().ok()?;
            Some(if fahrenheit { (degrees - 32.0) / 1.8 } else { degrees })
        };
        let (Some(low), Some(high)) = (celsius(1), celsius(3)) else { continue };
        let said = |t: f64| l.units.say(Measure::Temperature, t, 0);
        let (from, to) = (said(low), said(high));
        let text = groups[0].clone().unwrap_or_default();
        let tenth = |t: f64| (t * 10.0).round() / 10.0;
        if line_charges {
            l.doc().put("cold_cutoff_c", tenth(low));
            l.doc().put("charge_high_c", tenth(high));
            l.say(text, format!("charged from {from} to {to}: no charge below {from}"));
        } else if l.is_discharging() {
            l.doc().put("discharge_low_c", tenth(low));
            l.doc().put("discharge_high_c", tenth(high));
            l.say(text, format!("used from {from} to {to}"));
        } else {
            l.say(text, format!("kept from {from} to {to}: not needed, left out"));
        }
    }
}

/// "1 year full, 36 months pro-rated", "5-yr warranty". A pro-rated time given in months counts from the
/// day it is bought, as such tables are meant; in years it comes after the full one.
fn warranty(l: &mut Line<'_>) {
    let first = l.number(&YEARS);
    let months = l.number(&MONTHS).map(|(t, m)| (t, m / 12.0));
    let (first, second) = match (first, months) {
        (Some(first), Some(months)) => (first, Some(months.1)),
        (Some(first), None) => {
            let more = l.number(&YEARS).map(|s| s.1);
            let total = more.map(|more| first.1 + more);
            (first, total)
        }
        (None, Some(months)) => {
            let second = l.number(&MONTHS).map(|s| s.1 / 12.0);
            (months, second)
        }
        (None, None) => return,
    };
    let prorated = l.has(&["prorat", "pro-rat", "pro rat"]);
    let (text, years) = first;
    let total = second.map_or(years, |total| total.max(years));
    if second.is_some() || !prorated {
        l.doc().put("warranty_full_years", years);
    }
    l.doc().put("warranty_total_years", total);
    let full = if second.is_some() { format!(", {years} of them in full") } else { String::new() };
    l.say(text, format!("warranty: {total} years in all{full}"));
}

fn measures(l: &mut Line<'_>) {
    let pounds = l.number(&POUNDS).map(|(t, v)| (t, v * KG_PER_LB));
    let kilos = l.number(&KILOGRAMS);
    if let Some((text, kg)) = kilos.or(pounds) {
        l.doc().put("mass_kg", (kg * 1000.0).round() / 1000.0);
        let weighs = l.units.say(Measure::Mass, kg, 1);
        l.say(text, format!("weighs {weighs}"));
    }
    one_by_one(l);
    if let Some(g) = l.take(&CLEARANCE) {
        let unit = g[6].as_deref().or(g[4].as_deref()).or(g[2].as_deref()).unwrap_or("mm");
        let factor = match unit.to_lowercase().as_str() {
            "mm" => 1.0,
            "cm" => 10.0,
            _ => MM_PER_INCH,
        };
        let sides = [1, 3, 5]
            .map(|n| g[n].as_deref().and_then(side).map(|s| (s * factor * 10.0).round() / 10.0));
        if let [Some(a), Some(b), Some(height)] = sides {
            l.doc().put("length_mm", a.max(b));
            l.doc().put("width_mm", a.min(b));
            l.doc().put("height_mm", height);
            let said = sides_said(l.units, a.max(b), a.min(b), height);
            l.say(
                g[0].clone().unwrap_or_default(),
                format!("{said}, the last taken for the height"),
            );
        }
    }
    if let Some(found) = l.take(&TERMINALS) {
        let kind = found[1].clone().or_else(|| found[2].clone()).unwrap_or_default();
        l.doc().put("terminals", kind.trim().to_owned());
        l.say(found[0].clone().unwrap_or_default(), "terminals");
    }
    if let Some((text, ohms)) = l.number(&MILLIOHM) {
        l.doc().put("resistance_ohm", ohms / 1000.0);
        l.say(text, format!("internal resistance {ohms} milliohm"));
    }
    if let Some((text, price)) = l.number(&PRICE_AFTER).or_else(|| l.number(&PRICE)) {
        l.doc().put("price", price);
        l.say(text, format!("price {price}"));
    }
}

/// Sides in the units shown.
fn sides_said(units: System, length: f64, width: f64, height: f64) -> String {
    let figure = |mm: f64| {
        let digits = usize::from(units != System::Metric);
        format!("{:.digits$}", units.figure(Measure::Side, mm))
    };
    let unit = units.unit(Measure::Side).name;
    format!("{} x {} x {} {unit}", figure(length), figure(width), figure(height))
}

/// Sides that each come with their letter or word. Letters alone count only where several stand together.
fn one_by_one(l: &mut Line<'_>) {
    let Some(pattern) = SIDE.as_ref() else { return };
    let text = l.text.clone();
    let found: Vec<_> = pattern
        .captures_iter(&text)
        .filter_map(|c| {
            Some((
                c.get(1)?.as_str().to_lowercase(),
                c.get(2)?.as_str(),
                c.get(3).map(|u| u.as_str().to_lowercase()),
            ))
        })
        .collect();
    let letters = found.iter().filter(|(word, ..)| word.chars().count() == 1).count();
    let unit = found.iter().find_map(|(_, _, unit)| unit.clone());
    let (Some(unit), true) = (unit, !found.is_empty() && (letters == 0 || letters > 1)) else {
        return;
    };
    let factor = match unit.as_str() {
        "mm" => 1.0,
        "cm" => 10.0,
        _ => MM_PER_INCH,
    };
    for (word, figure, _) in &found {
        let Some(mm) = side(figure).map(|s| (s * factor * 10.0).round() / 10.0) else { continue };
        let key = match word.as_str() {
            "h" | "height" | "total height" | "h\u{f6}he" | "hauteur" | "altura" | "alto" => {
                "height_mm"
            }
            "w" | "b" | "d" | "t" | "width" | "breite" | "largeur" | "ancho" | "anchura"
            | "depth" | "tiefe" | "profondeur" | "fondo" => "width_mm",
            _ => "length_mm",
        };
        l.doc().put(key, mm);
        let said = l.units.say(Measure::Side, mm, usize::from(l.units != System::Metric));
        l.say(format!("{word} {figure}"), said);
    }
    if let (Some(a), Some(b)) = (l.doc().number("length_mm"), l.doc().number("width_mm")) {
        // Along is what is longer.
        l.doc().put("length_mm", a.max(b));
        l.doc().put("width_mm", a.min(b));
    }
    l.text = pattern.replace_all(&l.text, " \u{1} ").into_owned();
}

/// "12.99" or "12 1/16".
fn side(text: &str) -> Option<f64> {
    let fraction = |t: &str| {
        let (above, below) = t.split_once('/')?;
        let below: f64 = below.trim().parse().ok()?;
        (below > 0.0).then_some(above.trim().parse::<f64>().ok()? / below)
    };
    match text.trim().split_once(' ') {
        Some((whole, part)) => Some(whole.parse::<f64>().ok()? + fraction(part)?),
        None if text.contains('/') => fraction(text),
        None => text.trim().parse().ok(),
    }
}

fn volts(l: &mut Line<'_>) {
    let cutoff = l.has(&[
        "cut-off",
        "cutoff",
        "cut off",
        "low voltage",
        "end voltage",
        "entladeschluss",
        "abschalt",
        "coupure",
        "corte",
    ]);
    let charging = l.is_charging() || l.has(&["absorption", "bulk"]);
    let mut seen = Vec::new();
    while let Some((text, v)) = l.number(&VOLTS) {
        seen.push((text, v));
        if seen.len() > 4 {
            break;
        }
    }
    let Some((text, v)) = seen.iter().max_by(|a, b| a.1.total_cmp(&b.1)).cloned() else { return };
    if cutoff {
        l.doc().put("low_voltage_cutoff_v", v);
        l.say(text, format!("shuts off at {v} V"));
    } else if charging {
        l.doc().put("charge_voltage_v", v);
        l.say(text, format!("charged at up to {v} V"));
    } else if l.doc().number("nominal_voltage_v").is_none() {
        // "12 V / 12.8 V nominal": the one with decimals is what the cells make.
        let exact = seen.iter().find(|(_, v)| v.fract() > 0.0);
        let (text, v) = exact.unwrap_or(&seen[0]).clone();
        l.doc().put("nominal_voltage_v", v);
        l.say(text, format!("nominal voltage {v} V"));
    }
}
