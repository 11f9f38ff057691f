//! The Build page put together, its two sheets, and the card as a file.

use super::also::{AlsoView, also};
use super::card::{self, CardView};
use super::parts::{PartView, PartsView};
use super::steps::{PhaseView, StepView, phases};
use super::words::{Words, tool};
use crate::figures;
use crate::forms::build as forms;
use crate::forms::list::ListView;
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::render::{Render, block};
use crate::frame::view::{Open, Page, Part, View};
use crate::parts::circuit;
use crate::parts::decision::{self, About};
use crate::parts::drawing::Drawing;
use askama::Template;
use lake_hour_core::build::{Change, ChargerPlace, Job, MOST_OWN, NotBuilt, Tool};
use lake_hour_core::decide::Contest;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::say::Say;
use lake_hour_core::verdict;
use lake_hour_core::wiring::DANGEROUS;
use lake_hour_store::RigId;

/// A pack that may be chosen.
#[derive(Debug, Clone)]
pub(super) struct Choice {
    pub(super) id: i64,
    pub(super) name: String,
    pub(super) chosen: bool,
    /// The one that comes first by what is wanted.
    pub(super) first: bool,
}

/// All that is told of a build.
#[derive(Debug, Clone)]
pub(super) struct Told {
    pub(super) drawings: Vec<Drawing>,
    pub(super) wiring: String,
    /// What is wrong with the circuit, in sentences.
    pub(super) findings: Vec<String>,
    pub(super) parts: PartsView,
    pub(super) own: ListView,
    pub(super) also: Vec<AlsoView>,
    pub(super) phases: Vec<PhaseView>,
    pub(super) card: Option<CardView>,
    pub(super) done: usize,
    /// The next step: its key and number.
    pub(super) next: Option<(&'static str, usize)>,
    pub(super) steps: usize,
    pub(super) tools: String,
    pub(super) aboard_place: bool,
    pub(super) equalized: bool,
    pub(super) dangerous: bool,
    pub(super) same: bool,
    /// "24 V bow motor, max 50 A".
    pub(super) motor: String,
    pub(super) exchange: String,
    pub(super) bays: String,
    /// Figures of the plan, label and value.
    pub(super) figures: Vec<(&'static str, String)>,
    /// "Gets home with 1.5 h to spare."
    pub(super) verdict: String,
    /// "Keep to setting 8 or lower: its BMS shuts off above 50 A."
    pub(super) drive: Option<String>,
    pub(super) outcome: &'static str,
    pub(super) disc: &'static str,
}

#[derive(Template)]
#[template(path = "build/page.html", blocks = ["page"])]
pub(crate) struct BuildPage {
    head: Head,
    rig: RigId,
    view: View,
    choices: Vec<Choice>,
    name: String,
    craft: String,
    refused: Vec<String>,
    /// The most that the motor draws is to be told first.
    ask_amps: bool,
    told: Option<Told>,
    boat: bool,
}

/// What is said of a pack that is too strong and too high for a sheet.
const LICENSED: &str = "It stands above 60 V DC, which can kill, and gives more amps than one cable carries: have it designed and wired by someone licensed for it";

impl BuildPage {
    pub(crate) fn new(scene: &Scene) -> Self {
        let (board, view, units) = (&scene.board, scene.view, scene.look.units);
        let plan = &board.plan;
        let say = scene.look.say(&plan.currency);
        let chosen = plan.chosen();
        // Only asked for where nothing is chosen yet.
        let best = match chosen {
            Some(_) => None,
            None => Contest::of(plan).ok().and_then(|contest| contest.best()),
        };
        let choices =
            std::iter::zip(&board.packs, &plan.packs).enumerate().map(|(n, (id, pack))| {
                let first = best == Some(n);
                Choice { id: id.0, name: pack.name.clone(), chosen: pack.chosen, first }
            });
        let (mut refused, mut told, mut ask_amps) = (Vec::new(), None, false);
        match chosen.map(|pack| Job::of(plan, pack)) {
            None => {}
            Some(Ok(job)) => told = Some(tell(scene, &job, say)),
            Some(Err(NotBuilt::SetAside(reasons))) => {
                refused.extend(reasons.iter().map(|r| figures::capital(&r.sentence(units))));
            }
            Some(Err(NotBuilt::NoHighest)) => ask_amps = true,
            // Nobody lays cables side by side above 60 V by a sentence of ours.
            Some(Err(NotBuilt::NoCircuit(_)))
                if chosen.is_some_and(|p| p.full_charge_voltage() > DANGEROUS) =>
            {
                refused.push(LICENSED.to_owned());
            }
            Some(Err(NotBuilt::NoCircuit(none))) => {
                refused.push(figures::capital(&none.to_string()));
            }
            Some(Err(NotBuilt::NoDraw(unknown))) => {
                refused.push(figures::capital(&unknown.to_string()));
            }
        }
        let name = chosen.map(|pack| pack.name.clone()).unwrap_or_default();
        let mut head = Head::of_scene(scene);
        if !name.is_empty() {
            head.title = format!("{}: Build {name}", plan.rig.name);
        }
        Self {
            head,
            rig: board.rig,
            view,
            choices: choices.collect(),
            name,
            craft: plan.rig.name.clone(),
            refused,
            ask_amps,
            told,
            boat: plan.rig.craft.kind.is_boat(),
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    fn action(&self, path: &str) -> String {
        action(self.rig, self.view, path)
    }

    fn on(&self, page: Page) -> String {
        self.view.on(page).address(self.rig)
    }

    /// Where it is said how far one is with a part: what it is already is taken back.
    fn part(&self, part: &PartView, state: &str) -> String {
        let state = if part.is(state) { "to_buy" } else { state };
        self.action(&format!("build/parts/{}/{state}", part.key))
    }

    fn step(&self, step: &StepView, state: &str) -> String {
        self.action(&format!("build/steps/{}/{state}", step.key))
    }

    /// What the tick of a step makes of it.
    #[allow(clippy::unused_self)]
    fn turned(&self, step: &StepView) -> &'static str {
        if step.is("done") { "open" } else { "done" }
    }

    fn file(&self, name: &str) -> String {
        format!("/rigs/{}/build/{name}", self.rig.0)
    }
}

fn action(rig: RigId, view: View, path: &str) -> String {
    format!("/rigs/{}/{path}{}", rig.0, view.query())
}

fn tell(scene: &Scene, job: &Job<'_>, say: Say<'_>) -> Told {
    let plan = job.plan;
    let words = Words { job, say };
    let course = verdict::course(&plan.rig_as_measured(), &plan.day);
    let about = About { plan, pack: job.pack, course: &course, say };
    let w = &job.wiring;
    let widths = [("wide", 560.0, 6), ("narrow", 366.0, 3), ("paper", 744.0, 8)];
    let phases = phases(scene, &words);
    let all = || phases.iter().flat_map(|p| &p.steps);
    let mut tools: Vec<Tool> = Vec::new();
    for step in job.steps() {
        for tool in step.key.tools() {
            if !tools.contains(tool) {
                tools.push(*tool);
            }
        }
    }
    let tools: Vec<&str> = tools.into_iter().map(tool).collect();
    Told {
        findings: w.findings.iter().map(circuit::finding).collect(),
        drawings: circuit::drawings(&about, &job.asked, w, &widths),
        wiring: circuit::sentence(job.pack, w),
        parts: scene.form(
            Open::Part(Part::Parts),
            || forms::parts_typed(plan),
            |form| PartsView::of(job, form, say),
        ),
        own: ListView {
            id: "own",
            what: "part",
            action: action(scene.board.rig, scene.view, "build/own"),
            rows: scene.form(
                Open::Part(Part::OwnParts),
                || forms::own_typed(&plan.build),
                |form| forms::own_rows(form, plan.build.own.len()),
            ),
            most: MOST_OWN,
            tick: None,
        },
        also: also(job, say),
        card: CardView::of(job, say),
        done: all().filter(|s| s.is("done")).count(),
        next: all().find(|s| s.next).map(|s| (s.key, s.number)),
        steps: all().count(),
        tools: tools.join("; "),
        aboard_place: job.charger_place() == ChargerPlace::Aboard,
        equalized: job.is_dangerous_when_equalized(),
        dangerous: job.is_dangerous(),
        same: job.pack.aboard,
        motor: motor(plan),
        exchange: exchange(job),
        bays: bays(job),
        figures: of_plan(job, &about),
        verdict: decision::verdict(&about, job.evaluation()),
        drive: decision::drive(&about, job.evaluation()),
        outcome: job.evaluation().counts_as().key(),
        disc: decision::disc(job.evaluation().counts_as()),
        phases,
    }
}

/// "24 V bow motor, max 50 A".
fn motor(plan: &Plan) -> String {
    let motor = &plan.rig.motor;
    let most = circuit::most(motor).map_or_else(String::new, |most| format!(", {most}"));
    let volts = format!("{} V", figures::amount(motor.system_voltage.value()));
    if motor.name.contains(&volts) {
        format!("{}{most}", motor.name)
    } else {
        format!("{volts} {}{most}", motor.name)
    }
}

/// "from two AGM to one LFP".
fn exchange(job: &Job<'_>) -> String {
    let of = |pack: &Pack| {
        let name = pack.battery.chemistry.name();
        // LFP and AGM are said letter by letter.
        let name = if name.chars().all(char::is_uppercase) {
            name.to_owned()
        } else {
            name.to_lowercase()
        };
        format!("{} {name}", pack.units())
    };
    match (job.aboard, job.change()) {
        (Some(old), Change::FirstFit) | (Some(old), _) => {
            format!("from {} to {}", of(old), of(job.pack))
        }
        (None, _) => format!("first fit, {}", of(job.pack)),
    }
}

fn bays(job: &Job<'_>) -> String {
    let stowage = lake_hour_core::pack::stow::stow(&job.plan.rig, job.pack);
    stowage.map_or_else(String::new, |s| s.held_by().join(", "))
}

/// What the sheets tell of the plan.
fn of_plan(job: &Job<'_>, about: &About<'_>) -> Vec<(&'static str, String)> {
    let (pack, evaluation, say) = (job.pack, job.evaluation(), about.say);
    let mut told = vec![(
        "volts",
        format!(
            "{} V, {:.1} V full",
            figures::typed(pack.voltage().value()),
            pack.full_charge_voltage().value()
        ),
    )];
    if let (Some(ah), Some(wh)) = (evaluation.capacity, evaluation.energy) {
        told.push((
            "capacity",
            format!("{} Ah, {}", figures::amount(ah.value()), figures::energy(wh.value())),
        ));
    }
    if let Some(mass) = evaluation.mass {
        told.push(("weight", figures::mass(mass, say.units)));
    }
    told.push(("most amps", format!("{} A", figures::amount(job.asked.most.value()))));
    let w = &job.wiring;
    told.push((
        "drop to the motor",
        format!("{:.2} V, {:.1} %", w.drop.value(), w.drop_share(pack) * 100.0),
    ));
    told.push(("a short draws", format!("{} kA", figures::amount(w.fault.value() / 1000.0))));
    if let Some(drawn) = &evaluation.drawn {
        told.push((
            "left after the day",
            format!(
                "{} ({} to {})",
                figures::percent(drawn.summary.charge_left),
                figures::percent(drawn.band.low),
                figures::percent(drawn.band.high)
            ),
        ));
    }
    told
}

#[derive(Template)]
#[template(path = "build/sheets.html")]
struct Sheets<'a> {
    page: &'a BuildPage,
    told: &'a Told,
    /// Steps on the first sheet, and on the second.
    before: &'a [PhaseView],
    after: &'a [PhaseView],
    /// How closely they are set.
    first: &'static str,
    second: &'static str,
}

impl Sheets<'_> {
    /// What was read, or room to write it.
    #[allow(clippy::unused_self)]
    fn read(&self, step: &StepView) -> String {
        let read = step.fields.first().filter(|f| f.spec.name == "reading" && !f.value.is_empty());
        read.map_or_else(
            || format!("________ {}", step.unit),
            |f| format!("read: {} {}", f.value, f.unit),
        )
    }
}

/// How closely a sheet is set.
struct Setting {
    class: &'static str,
    /// Letters in a line of a column.
    letters: usize,
    /// Height of a line, what a step or a part takes besides, and the most of the picture. [px]
    line: f64,
    besides: f64,
    picture: f64,
}

const fn setting(
    class: &'static str,
    letters: usize,
    line: f64,
    besides: f64,
    picture: f64,
) -> Setting {
    Setting { class, letters, line, besides, picture }
}

/// The roomiest first. The heights of the pictures stand in the style, too.
const SETTINGS: [Setting; 4] = [
    setting("roomy", 53, 16.25, 5.0, 262.0),
    setting("close", 59, 13.8, 5.0, 252.0),
    setting("closer", 63, 12.55, 3.0, 236.0),
    setting("closest", 67, 11.5, 3.0, 180.0),
];
/// Height of both columns of the second sheet, and of all that stands on the first but its head and foot, with some room to
/// spare. [px]
const COLUMNS: f64 = 1_700.0;
const FIRST: f64 = 895.0;

impl Setting {
    fn lines(&self, text: usize) -> f64 {
        text.div_ceil(self.letters) as f64 * self.line
    }

    /// The steps, with their headings.
    fn steps(&self, phases: &[PhaseView]) -> f64 {
        let step = |s: &StepView| {
            let cautions: usize = s.cautions.iter().map(|c| c.len() + 3).sum();
            let more = f64::from(u8::from(s.right.is_some()) + u8::from(s.is("put_off")));
            self.lines(s.title.len() + s.how.len() + 4 + cautions) + more * self.line + self.besides
        };
        let steps: f64 = phases.iter().flat_map(|p| &p.steps).map(step).sum();
        steps + phases.len() as f64 * (1.1 * self.line + 11.0)
    }

    /// The picture, parts beside what else changes, and the card.
    fn needs(&self, told: &Told, phases: &[PhaseView]) -> f64 {
        // A price and a box stand beside a part.
        let part = |text: usize| self.lines(text * 11 / 10) + self.besides - 1.0;
        let parts =
            told.parts.parts.iter().map(|p| part(p.name.len() + p.size.len() + p.note.len() + 2));
        let own = told.parts.own.iter().map(|p| part(p.name.len() + p.note.len() + 2));
        let also = told
            .also
            .iter()
            .map(|a| self.lines(a.name.len() + a.words.len() + 3) + self.besides - 1.0);
        let plan: usize = told.figures.iter().map(|(l, v)| l.len() + v.len() + 3).sum();
        let left: f64 = parts.chain(own).sum();
        let right = also.sum::<f64>() + self.lines(plan + told.verdict.len()) + 28.0;
        let card = told.card.as_ref().map_or(0.0, |c| {
            // Its text runs over both columns.
            let stops: usize = c.stops.iter().map(String::len).sum();
            (c.rows.len() as f64 + 3.5) * (self.line + 3.0) + self.lines(stops / 2) + 28.0
        });
        let picture = if told.drawings.is_empty() { 0.0 } else { self.picture };
        picture + 30.0 + left.max(right) + card + self.steps(phases) / 2.0
    }
}

/// The place of the roomiest setting in which something goes on its sheet; one beyond the last where it does in none.
fn closeness(fits: impl Fn(&Setting) -> bool) -> usize {
    SETTINGS.iter().position(fits).unwrap_or(SETTINGS.len())
}

/// How many of the first phases stand on the first sheet, so that both are as roomy as they can be; and how each is set.
fn divided(told: &Told) -> (usize, usize, usize) {
    let most = 2.min(told.phases.len());
    let tries = (0..=most).map(|n| {
        let (before, after) = told.phases.split_at(n);
        let first = closeness(|s| s.needs(told, before) <= FIRST);
        (n, first, closeness(|s| s.steps(after) <= COLUMNS))
    });
    tries
        .min_by_key(|(n, first, second)| (first.max(second) * 10 + first.min(second), *n))
        .unwrap_or((0, 0, 0))
}

/// The two sheets.
pub(super) fn sheets(scene: &Scene) -> Result<String, PageError> {
    let page = BuildPage::new(scene);
    let Some(told) = &page.told else {
        return Err(PageError::Gone("a pack that is chosen and can be built".to_owned()));
    };
    let (on_first, first, second) = divided(told);
    let (before, after) = told.phases.split_at(on_first);
    let [first, second] = [first, second].map(|n| SETTINGS[n.min(SETTINGS.len() - 1)].class);
    Sheets { page: &page, told, before, after, first, second }
        .render()
        .map_err(|_| PageError::Broken)
}

#[derive(Template)]
#[template(path = "build/card.html")]
struct CardFile<'a> {
    name: &'a str,
    craft: &'a str,
    card: &'a CardView,
    data: String,
    boat: bool,
    today: String,
    css: &'static str,
    script: &'static str,
}

/// The card as one file.
pub(super) fn card_file(scene: &Scene) -> Result<String, PageError> {
    let gone = || PageError::Gone("a pack that is chosen and has a card".to_owned());
    let plan = &scene.board.plan;
    let pack = plan.chosen().ok_or_else(gone)?;
    let job = Job::of(plan, pack).map_err(|_| gone())?;
    let say = scene.look.say(&plan.currency);
    let card = CardView::of(&job, say).ok_or_else(gone)?;
    let data = card::data(&job, say).ok_or_else(gone)?;
    let file = CardFile {
        name: &pack.name,
        craft: &plan.rig.name,
        card: &card,
        data,
        boat: plan.rig.craft.kind.is_boat(),
        today: Head::plain("Card", scene.look).today,
        css: include_str!("../../../templates/build/card.css"),
        script: include_str!("../../../templates/build/card.js"),
    };
    file.render().map_err(|_| PageError::Broken)
}
