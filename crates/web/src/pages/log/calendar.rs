//! All that is due of a rig as iCalendar (RFC 5545): the same identities each time, times in UTC.

use super::care::{chore, evening, line};
use super::today;
use lake_hour_core::care::{Act, due, tonight};
use lake_hour_core::log::{Log, Owned};
use lake_hour_core::units::say::Say;
use lake_hour_store::Board;

/// All that is due of a rig as a calendar.
pub(super) fn calendar(board: &Board, log: &Log, say: Say<'_>) -> String {
    use icalendar::{Alarm, Calendar, Component, Event, EventLike};
    let stamp =
        today().to_zoned_datetime(jiff::tz::TimeZone::UTC).map(|z| utc(&z)).unwrap_or_default();
    let rig = board.rig.0;
    let alarm = |what: &str, (rig, id): (i64, i64), summary: &str, hours, stamp: &str| {
        let mut alarm = Alarm::display(summary, -chrono::TimeDelta::hours(hours));
        // The same each time it is asked for.
        alarm.add_property("UID", format!("alarm-{what}-{rig}-{id}@lake-hour"));
        alarm.add_property("DTSTAMP", stamp);
        alarm.done()
    };
    let mut calendar = Calendar::empty();
    calendar
        .append_property(("VERSION", "2.0"))
        .append_property(("PRODID", "-//Lake Hour//Care//EN"))
        .append_property(("CALSCALE", "GREGORIAN"));
    calendar.name(&format!("{}: care", board.plan.rig.name));
    let event = |uid: String, summary: &str, notes: &str| {
        let mut event = Event::new();
        event.uid(&uid).summary(summary).description(notes).add_property("DTSTAMP", &stamp);
        event
    };
    let date = |d: jiff::civil::Date| d.strftime("%Y%m%d").to_string();
    let all_day = |event: &mut Event, on: jiff::civil::Date| {
        let mut start = icalendar::Property::new("DTSTART", date(on));
        start.append_parameter(icalendar::Parameter::new("VALUE", "DATE"));
        event.append_property(start);
    };
    for (id, o) in log.owned().filter(|(_, o)| o.retired.is_none()) {
        for d in due(log, id) {
            let name = chore(d.chore);
            let summary = format!("{}: {name}", o.pack.name);
            let uid = format!("{}-{rig}-{id}@lake-hour", d.chore.key());
            let mut one = event(uid, &summary, "Done or put off on the Log page of Lake Hour.");
            all_day(&mut one, d.on);
            one.add_property("RRULE", format!("FREQ=DAILY;INTERVAL={}", d.every));
            one.alarm(alarm(d.chore.key(), (rig, id), &summary, 6, &stamp));
            calendar.push(one.done());
        }
        let e = evening(board, log, (id, o));
        let t = tonight(&e);
        if let Act::ChargeBy { by: Some(by), .. } = t.act
            && let Ok(at) = by
                .date
                .at((by.minute / 60) as i8, (by.minute % 60) as i8, 0, 0)
                .to_zoned_datetime(jiff::tz::TimeZone::system())
        {
            let words = line((id, o), &e, &t, say);
            let summary = format!("{}: {}", o.pack.name, words.act);
            let uid = format!("charge-{rig}-{id}@lake-hour");
            let mut one = event(uid, &summary, &words.why.join(". "));
            one.add_property("DTSTART", utc(&at));
            one.alarm(alarm("charge", (rig, id), &summary, 1, &stamp));
            calendar.push(one.done());
        }
        if let Some(on) = warranty_ends(o) {
            let uid = format!("warranty-{rig}-{id}@lake-hour");
            let summary = format!("{}: its warranty ends; test it before", o.pack.name);
            let mut one = event(uid, &summary, "");
            all_day(&mut one, on);
            calendar.push(one.done());
        }
    }
    calendar.done().to_string()
}

fn warranty_ends(o: &Owned) -> Option<jiff::civil::Date> {
    use lake_hour_core::log::Warranty;
    match o.warranty(today()) {
        Warranty::Full(to) | Warranty::Prorated(_, to) => Some(to),
        Warranty::Untold | Warranty::Over(_) => None,
    }
}

/// "20260922T051500Z".
fn utc(at: &jiff::ZonedDateTime) -> String {
    at.with_time_zone(jiff::tz::TimeZone::UTC).strftime("%Y%m%dT%H%M%SZ").to_string()
}
