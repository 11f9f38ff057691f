//! The Day page put together.

use crate::figures::{self, Told};
use crate::forms::list::ListView;
use crate::forms::{self, Field, Shown, Typed};
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::render::{Render, block};
use crate::frame::view::{Nudges, Open, Page, Part, View};
use crate::frame::weighed::OnBoard;
use crate::parts::lane::{self, Lane};
use crate::parts::learned;
use crate::parts::nudges::{self, NudgeLink};
use crate::parts::source::{self, Rests};
use crate::parts::strip::{self, Asks, Strip};
use askama::Template;
use lake_hour_core::day::{self, Duty, Template as DayTemplate};
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion::{self, Implied, Matter};
use lake_hour_core::rig::Dial;
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::source::Origin;
use lake_hour_core::units::convert::M_PER_MILE;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Hours};
use lake_hour_core::verdict;
use lake_hour_store::RigId;

/// The panel of one stretch.
pub(crate) struct Panel {
    id: i64,
    name: String,
    fields: Vec<Field>,
    /// What it comes to.
    implied: Vec<Told>,
    says: String,
    first: bool,
    last: bool,
}

/// One line of the sum on a sheet of paper.
pub(crate) struct SumLine {
    name: String,
    amps: String,
    hours: String,
    ah: String,
}

/// What follows a block while it is dragged: the picture and the lanes, and nothing else of the page.
#[derive(Template)]
#[template(path = "day/live.html")]
pub(crate) struct Live {
    rig: RigId,
    view: View,
    strip: Strip,
    /// The volts that the amps are said at.
    volts: String,
    lanes: Vec<Lane>,
    set_aside: usize,
    /// Why no pack can be judged.
    missing: Option<String>,
}

#[derive(Template)]
#[template(path = "day/page.html", blocks = ["page"])]
pub(crate) struct DayPage {
    head: Head,
    rig: RigId,
    view: View,
    summary: String,
    live: Live,
    panel: Option<Panel>,
    new_stretch: Vec<Field>,
    day: Vec<Field>,
    hourly: ListView,
    charging: ListView,
    devices: ListView,
    devices_together: bool,
    /// Devices on a battery of their own, which nothing here counts.
    devices_apart: usize,
    /// Chargers on the way whose time is not in the day.
    charging_outside: usize,
    /// What of the Rig makes charge and is not told when.
    idle: Option<String>,
    /// Whether nights on the charger are asked for where there are none.
    no_nights: bool,
    /// What a mile takes and what of it matters, on wheels.
    mile: Option<String>,
    templates: Vec<DayTemplate>,
    nudges: Vec<NudgeLink>,
    unmoved: Option<String>,
    rests: Rests,
    sum: Vec<SumLine>,
    sum_total: String,
    next_size: String,
    boat: bool,
    import_problem: Option<String>,
    has_route: bool,
}

/// The plan as it is shown: with the what-ifs, and a block as long as it is dragged to.
fn shown(scene: &Scene) -> Plan {
    let (board, view) = (&scene.board, scene.view);
    let mut plan = view.nudges.applied(&board.plan, scene.look.units);
    if let Some((id, minutes)) = view.drag
        && let Some(n) = board.stretches.iter().position(|s| s.0 == id)
    {
        plan.day.stretches[n].lasts = Hours::from_minutes(minutes);
    }
    plan
}

/// The Day, or as much of it as is asked for.
pub(crate) fn html(scene: &Scene, render: Render) -> Result<String, PageError> {
    let plan = shown(scene);
    let asks = Asks::of(&plan);
    let live = Live::new(scene, &plan, &asks);
    if render == Render::Fragment && scene.view.drag.is_some() {
        return live.render().map_err(|_| PageError::Broken);
    }
    let page = DayPage::new(scene, &plan, &asks, live);
    match render {
        Render::Page => page.render().map_err(|_| PageError::Broken),
        Render::Fragment => block(&page.head.title, page.as_page().render()),
    }
}

impl Live {
    fn new(scene: &Scene, plan: &Plan, asks: &Asks) -> Self {
        let (set_aside, lanes): (Vec<Lane>, Vec<Lane>) =
            lane::lanes(scene, &OnBoard::shown(plan, &scene.board), &asks.course)
                .into_iter()
                .partition(Lane::is_set_aside);
        Self {
            rig: scene.board.rig,
            view: scene.view,
            strip: Strip::new(plan, asks, &scene.board.stretches, scene.look, 92.0, 150.0),
            volts: strip::volts(plan),
            lanes,
            set_aside: set_aside.len(),
            missing: asks.missing(&plan.day),
        }
    }

    fn drag_at(&self) -> String {
        action(self.rig, self.view, "day")
    }

    fn rig_page(&self) -> String {
        self.view.on(Page::Rig).address(self.rig)
    }

    fn open_stretch(&self, id: &i64) -> String {
        toggled(self.rig, self.view, *id)
    }

    fn is_open(&self, id: &i64) -> bool {
        self.view.open == Open::Stretch(*id)
    }
}

/// Where a stretch is opened, or closed again when it is open.
fn toggled(rig: RigId, view: View, id: i64) -> String {
    let open = Open::Stretch(id);
    let open = if view.open == open { Open::Nothing } else { open };
    view.opening(open).address(rig)
}

impl DayPage {
    fn new(scene: &Scene, plan: &Plan, asks: &Asks, live: Live) -> Self {
        let (board, view, units) = (&scene.board, scene.view, scene.look.units);
        let boat = plan.rig.craft.kind.is_boat();
        let forms = Forms { scene };
        let (sum, sum_total, next_size) = sum(plan, asks);
        Self {
            head: Head::of_scene(scene),
            rig: board.rig,
            view,
            summary: summary(plan, asks, units),
            live,
            panel: panel(scene, plan, &asks.implied),
            new_stretch: forms.new_stretch(boat),
            day: forms.shown(
                Open::Day,
                || forms::day_frame::typed(&board.plan.day, scene.look),
                |s| forms::day_frame::fields(s, boat),
            ),
            hourly: ListView {
                id: "hourly",
                what: "change of weather",
                most: forms::day_frame::MOST_HOURS,
                action: action(board.rig, view, "hourly"),
                rows: forms.shown(
                    Open::Part(Part::Hourly),
                    || forms::day_frame::hourly_typed(&board.plan.day, scene.look),
                    |s| forms::day_frame::hourly_rows(s, board.plan.day.hourly.len(), boat),
                ),
                tick: None,
            },
            charging: ListView {
                id: "charging",
                what: "sun or charger",
                most: forms::day_frame::MOST_HOURS,
                action: action(board.rig, view, "charging"),
                rows: forms.shown(
                    Open::Part(Part::Charging),
                    || forms::day_frame::charging_typed(&board.plan.day, scene.look),
                    |s| {
                        let day = &board.plan.day;
                        let there = day.solar.len() + day.charging.len();
                        forms::day_frame::charging_rows(s, there)
                    },
                ),
                tick: None,
            },
            devices: ListView {
                id: "devices",
                what: "device",
                most: forms::day_frame::MOST_DEVICES,
                action: action(board.rig, view, "devices"),
                rows: forms.shown(
                    Open::Part(Part::Devices),
                    || forms::day_frame::devices_drawn(&board.plan.day),
                    |s| forms::day_frame::device_rows(s, board.plan.day.accessories.len()),
                ),
                tick: None,
            },
            devices_together: plan.day.accessories.iter().any(|a| !a.on_house),
            charging_outside: plan.day.charging_outside(),
            idle: source::idle_sources(plan),
            no_nights: plan.day.charge_overnight && !plan.day.is_charged_overnight(),
            devices_apart: plan.day.accessories.iter().filter(|a| a.on_house).count(),
            mile: mile(plan, units),
            templates: day::templates(plan.rig.craft.kind),
            unmoved: nudges::unmoved(view, plan),
            rests: Rests::on(source::of_plan(plan, units), board.rig, view),
            nudges: nudges::nudges(board.rig, view, plan, scene.look),
            sum,
            sum_total,
            next_size,
            boat,
            import_problem: scene
                .draft_of(Open::Part(Part::Import))
                .and_then(|d| d.problems.get("file"))
                .map(str::to_owned),
            has_route: plan.day.route.len() > 1,
        }
    }

    fn action(&self, path: &str) -> String {
        action(self.rig, self.view, path)
    }

    /// Where the day is logged as it was planned.
    fn as_planned(&self) -> String {
        action(self.rig, self.view.on(Page::Log), "log/as-planned")
    }

    fn stretch(&self, id: &i64) -> String {
        self.action(&format!("stretches/{id}"))
    }

    fn act(&self, id: &i64, act: &str) -> String {
        self.action(&format!("stretches/{id}/{act}"))
    }

    /// What can be done with the open stretch: key, words, not now.
    fn acts(&self) -> [(&'static str, &'static str, bool); 5] {
        let (first, last) = self.panel.as_ref().map_or((true, true), |p| (p.first, p.last));
        [
            ("earlier", "Earlier", first),
            ("later", "Later", last),
            ("copy", "Copy", false),
            ("split", "Split in two", false),
            ("remove", "Remove", false),
        ]
    }

    fn open_stretch(&self, id: &i64) -> String {
        toggled(self.rig, self.view, *id)
    }

    fn dropped(&self) -> String {
        View { nudges: Nudges::default(), ..self.view }.address(self.rig)
    }
}

fn action(rig: RigId, view: View, path: &str) -> String {
    format!("/rigs/{}/{path}{}", rig.0, view.query())
}

/// Forms with what is kept in them, or with what was typed and is wrong.
struct Forms<'a> {
    scene: &'a Scene,
}

impl Forms<'_> {
    fn shown<T>(
        &self,
        open: Open,
        kept: impl FnOnce() -> Typed,
        show: impl FnOnce(Shown<'_>) -> T,
    ) -> T {
        self.scene.form(open, kept, show)
    }

    fn new_stretch(&self, boat: bool) -> Vec<Field> {
        let blank = || forms::stretch::blank(&self.scene.board.plan.day, boat);
        self.shown(Open::NewStretch, blank, |s| {
            let mut fields =
                forms::stretch::fields(s, "new", boat, &self.scene.board.plan.rig.motor.dial);
            // The rest is for the stretch once it is there.
            fields.truncate(4);
            fields
        })
    }
}

fn panel(scene: &Scene, plan: &Plan, implied: &[Implied]) -> Option<Panel> {
    let Open::Stretch(id) = scene.view.open else { return None };
    let n = scene.board.stretches.iter().position(|s| s.0 == id)?;
    let units = scene.look.units;
    let boat = plan.rig.craft.kind.is_boat();
    let forms = Forms { scene };
    let kept = &scene.board.plan.day.stretches[n];
    let (stretch, i) = (&plan.day.stretches[n], &implied[n]);
    let worked = stretch.lasts.value() * stretch.share;
    let volts = strip::volts(plan);
    let origin = i.origin.words();
    let (amps, watts) = (figures::amount(i.amps.value()), figures::amount(i.watts.value()));
    let motor = plan.rig_as_measured().motor;
    let read = match stretch.duty {
        Duty::Setting(s) => motor.read_at_setting(s),
        _ => None,
    };
    let draws = match read {
        // What was read stays what was read; where it comes to another figure, that stands beside it and says why.
        Some((read, at)) => {
            let as_read = format!(
                "{} A at {:.1} V, as you read it",
                figures::amount(read.value()),
                at.value()
            );
            let differs = (i.amps.value() / read.value() - 1.0).abs() > 0.02;
            let why = if !differs {
                "Measured by you, and used as it is.".to_owned()
            } else if motor.learned.is_some() {
                format!("Measured by you. Your log has taught since that it draws {amps} A there.")
            } else {
                format!(
                    "Measured by you. At {} V, where this day's pack stands, the same motor draws {amps} A.",
                    figures::typed_coarse(motor.reads_at().value())
                )
            };
            Told::new("draws", as_read, why)
        }
        None => Told::new(
            "draws",
            format!("{amps} A at {volts}"),
            format!(
                "power / volts: {watts} W / {volts}; {origin}. A full pack stands higher and draws fewer amps for the same power."
            ),
        ),
    };
    let mut figures_of = vec![
        draws,
        Told::new(
            "power",
            format!("{watts} W"),
            power_words(stretch.duty, (boat, &plan.rig.motor.dial), i),
        ),
    ];
    if let Some(v) = i.speed {
        let why = match stretch.duty {
            Duty::Speed(_) => "As you typed it.".to_owned(),
            Duty::Distance(_) => "distance / (time x share of it working).".to_owned(),
            _ => format!("The speed at which what the hull or road asks equals {watts} W."),
        };
        figures_of.push(Told::new("over the ground", figures::speed(v, units), why));
    }
    if let Some(d) = i.distance {
        let covers = figures::distance(d, units);
        figures_of.push(Told::new(
            "covers",
            covers.clone(),
            format!("speed x {worked:.2} h worked."),
        ));
        if d.value() > 50.0 {
            let each = units.unit(Measure::Distance);
            let wh = i.watts.value() * worked / (d.value() / each.factor);
            figures_of.push(Told::new(
                if each.name == "km" { "a kilometer" } else { "a mile" },
                format!("{} Wh", figures::amount(wh)),
                format!("{watts} W x {worked:.2} h / {covers}."),
            ));
        }
    }
    figures_of.push(Told::new(
        "takes",
        format!("{} Ah", figures::amount(i.amps.value() * worked)),
        format!("{amps} A x {worked:.2} h, at {volts}."),
    ));
    let says = if i.too_much {
        "More than the motor can give: it runs flat out and does not get there.".to_owned()
    } else {
        let unsure = figures::percent(i.unsure);
        let log = learned::of_duty(&plan.rig, stretch.duty);
        match (log, i.origin) {
            (Some(log), _) => format!("By your log {log}; {unsure} either way."),
            (None, Origin::Typical) if plan.rig.measured.is_empty() => format!(
                "Typical for the craft, {unsure} either way. One measured speed on the Rig page makes it yours."
            ),
            (None, Origin::Measured) => {
                format!("From what you measured, {unsure} either way for wind and load.")
            }
            (None, Origin::SetByYou) => format!("As you typed it, {unsure} either way."),
            (None, Origin::Label | Origin::Told | Origin::Typical) => {
                format!("{}, {unsure} either way.", figures::capital(i.origin.words()))
            }
        }
    };
    Some(Panel {
        id,
        name: kept.name.clone(),
        fields: forms.shown(
            Open::Stretch(id),
            || forms::stretch::typed(kept, units, &plan.rig.motor.dial),
            |s| forms::stretch::fields(s, "stretch", boat, &plan.rig.motor.dial),
        ),
        implied: figures_of,
        says,
        first: n == 0,
        last: n + 1 == plan.day.stretches.len(),
    })
}

/// Where a stretch's power comes from, in words with its numbers.
fn power_words(duty: Duty, (boat, dial): (bool, &Dial), i: &Implied) -> String {
    let unsure = figures::percent(i.unsure);
    match duty {
        Duty::Off => "The motor is off.".to_owned(),
        Duty::Power(_) => format!("As you typed it, {unsure} either way."),
        Duty::Current(_) => {
            format!("amps x nominal volts, as you typed them, {unsure} either way.")
        }
        Duty::Setting(s) => format!(
            "The draw curve at setting {}, times nominal volts; {}, {unsure} either way.",
            figures::setting(dial, s),
            i.origin.words()
        ),
        Duty::HoldPlace => format!(
            "What wind and current push, with half as much windage again and gusts, over what the propeller makes of a watt; {unsure} either way."
        ),
        Duty::Speed(_) | Duty::Distance(_) if boat => format!(
            "(hull drag + wind) at this speed, over what the propeller makes of a watt (0.19 W/N^1.5 at rest); {}, {unsure} either way.",
            i.origin.words()
        ),
        Duty::Speed(_) | Duty::Distance(_) => format!(
            "(rolling + grade + air) x speed / 0.70 for the driveline, and what each stop takes; {}, {unsure} either way.",
            i.origin.words()
        ),
    }
}

/// "7 h 20 min · 9.4 mi · 89 Ah · 2.1 kWh at 24 V".
fn summary(plan: &Plan, asks: &Asks, units: System) -> String {
    let gone = asks.course.distance();
    let mut parts = vec![strip::totals(plan, asks).replace(", ", " · ")];
    if gone.value() > 100.0 {
        parts.insert(0, format!("{}{}", asks.least(), figures::distance(gone, units)));
        if !plan.rig.craft.kind.is_boat() {
            let wh = asks.amp_hours * plan.rig.motor.system_voltage.value();
            let each = units.unit(Measure::Distance);
            parts.push(format!(
                "{} Wh/{}",
                figures::amount(wh * each.factor / gone.value()),
                each.name
            ));
        }
    }
    parts.join(" · ")
}

/// What a mile takes on wheels, and which of ground, hills, stops, wind and load it is due to.
fn mile(plan: &Plan, units: System) -> Option<String> {
    let mile = propulsion::mile(&plan.rig_as_measured(), &plan.day)?;
    let each = units.unit(Measure::Distance);
    let per = |wh: f64| wh * each.factor / M_PER_MILE;
    let due: Vec<String> = mile
        .due
        .iter()
        .filter(|(_, wh)| *wh > 0.03 * mile.all)
        .map(|(matter, wh)| {
            let what = match matter {
                Matter::Ground => "softer ground than asphalt",
                Matter::Hills => "hills",
                Matter::Stops => "stops",
                Matter::Wind => "wind",
                Matter::Load => "people, gear and batteries",
            };
            format!("{what} {}", figures::amount(per(*wh)))
        })
        .collect();
    let matters =
        if due.is_empty() { String::new() } else { format!("; of it {}", due.join(", ")) };
    let a = if each.name == "km" { "A kilometer" } else { "A mile" };
    Some(format!("{a} takes {} Wh{matters}.", figures::amount(per(mile.all))))
}

/// The day summed as on a sheet of paper: amps times hours, line by line; the total; what to buy at half
/// of the label for lead and at nine tenths for LFP, in the sizes that are sold.
fn sum(plan: &Plan, asks: &Asks) -> (Vec<SumLine>, String, String) {
    let volts = plan.rig.motor.system_voltage.value();
    let stretches = std::iter::zip(&plan.day.stretches, &asks.implied).zip(&asks.known);
    let mut lines: Vec<SumLine> = stretches
        .map(|((s, i), known)| {
            let hours = s.lasts.value() * s.share;
            let told = |v: f64| if *known { figures::amount(v) } else { "?".to_owned() };
            SumLine {
                name: s.name.clone(),
                amps: told(i.amps.value()),
                hours: format!("{hours:.2}"),
                ah: told(i.amps.value() * hours),
            }
        })
        .collect();
    // The converter's loss included, as the lanes count it.
    let loss = verdict::devices_draw(&plan.rig, &plan.day) / plan.day.accessory_power();
    for device in plan.day.accessories.iter().filter(|a| !a.on_house) {
        let hours = device.hours.unwrap_or(plan.day.lasts()).value();
        let amps = device.power.value() * loss / volts;
        lines.push(SumLine {
            name: device.name.clone(),
            amps: figures::amount(amps),
            hours: format!("{hours:.2}"),
            ah: figures::amount(amps * hours),
        });
    }
    let days = f64::from(plan.day.days_without_charging);
    let total = asks.amp_hours * days;
    let size = |chemistry| plan.rules.next_size(AmpHours::of(total), chemistry);
    let (lead, lfp) = (size(Chemistry::Agm), size(Chemistry::Lfp));
    let next = format!(
        "With your house rules that is {}{} Ah of lead or {} Ah of LFP at {} V: next size up {} and {} Ah.",
        asks.least(),
        figures::amount(lead.wanted.value()),
        figures::amount(lfp.wanted.value()),
        figures::amount(volts),
        lead.sold.value(),
        lfp.sold.value()
    );
    let per_day = if days > 1.0 { format!(" in {days} days") } else { String::new() };
    (lines, format!("{}{} Ah{per_day}", asks.least(), figures::amount(total)), next)
}
