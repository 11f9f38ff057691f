//! Money over the years: a picture of what is spent, each set bought again as a step, and the sums behind it.

use crate::figures;
use lake_hour_core::decide::Standing;
use lake_hour_core::life::EndedBy;
use lake_hour_core::money::{Account, Use, crossing};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::Money;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use std::fmt::Write as _;

/// Lines told apart at a glance.
const MOST_LINES: usize = 4;
/// The picture's room and what of it the axes take. [px]
const WIDE: f64 = 560.0;
const HIGH: f64 = 236.0;
const LEFT: f64 = 52.0;
const RIGHT: f64 = 12.0;
const TOP: f64 = 14.0;
const FOOT: f64 = 24.0;
/// Steps drawn of one pack: more run into one slope.
const MOST_STEPS: u32 = 60;

/// One pack's line.
pub(crate) struct Line {
    pub(crate) name: String,
    /// `lead` or `lithium`, with its place among the lines for its dash.
    pub(crate) kind: &'static str,
    pub(crate) dash: usize,
    pub(crate) path: String,
    /// From a short life to a long one.
    pub(crate) band: String,
    /// What it comes to at the end.
    pub(crate) total: String,
    /// What it lives and what ends that, in words.
    pub(crate) lives: String,
}

/// Where a cheaper start becomes the dearer one.
pub(crate) struct Crossing {
    pub(crate) x: String,
    pub(crate) y: String,
    pub(crate) words: String,
}

/// A line of the axes.
pub(crate) struct Tick {
    pub(crate) at: String,
    pub(crate) text: String,
}

/// One pack's sums.
pub(crate) struct Sums {
    pub(crate) name: String,
    pub(crate) cells: Vec<String>,
    /// What the label makes of an outing, and why it is another figure here.
    pub(crate) label: String,
}

/// The picture, with its sums as a table.
pub(crate) struct MoneyPicture {
    pub(crate) years: String,
    pub(crate) lines: Vec<Line>,
    pub(crate) crossings: Vec<Crossing>,
    pub(crate) across: Vec<Tick>,
    pub(crate) down: Vec<Tick>,
    pub(crate) sentence: String,
    pub(crate) heads: Vec<String>,
    pub(crate) sums: Vec<Sums>,
    /// Packs with no price, which have no line.
    pub(crate) unpriced: usize,
    /// In what worth later sums are.
    pub(crate) worth: String,
}

struct Priced<'a> {
    pack: &'a Pack,
    account: Account,
    lives: (f64, f64),
}

impl MoneyPicture {
    /// Of all packs in the running, best first; `None` where none has a price.
    pub(crate) fn of(
        plan: &Plan,
        standings: &[Standing],
        order: &[usize],
        say: Say<'_>,
    ) -> Option<Self> {
        let rules = plan.rules_filled();
        let per_year = plan.day.outings_per_year;
        let all: Vec<(usize, Priced<'_>)> = order
            .iter()
            .filter_map(|n| {
                let survey = standings[*n].survey.as_ref()?;
                let account = survey.cost?.account;
                let lives = survey.life.lasts_between(per_year);
                Some((*n, Priced { pack: &plan.packs[*n], account, lives }))
            })
            .collect();
        let unpriced = order.len() - all.len();
        let horizon = rules.horizon_years;
        let drawn = &all[..all.len().min(MOST_LINES)];
        if drawn.is_empty() {
            return None;
        }
        let at = |p: &Priced<'_>, lasts: f64| {
            Account::of(
                p.pack,
                &rules.money,
                Use {
                    lasts,
                    first: lasts * p.account.used.first / p.account.used.lasts,
                    ..p.account.used
                },
            )
        };
        let most = drawn
            .iter()
            .flat_map(|(_, p)| [at(p, p.lives.0), Some(p.account)])
            .flatten()
            .map(|a| a.spent(horizon).value())
            .fold(1.0, f64::max);
        let step = round_step(most);
        let top = (most / step).ceil() * step;
        let x = |year: f64| LEFT + year / horizon * (WIDE - LEFT - RIGHT);
        let y = |sum: f64| TOP + (1.0 - sum / top) * (HIGH - TOP - FOOT);
        let path = |a: &Account, left: bool| {
            let mut out = String::new();
            for (year, sum) in steps(a, horizon, left) {
                // Writing to a string cannot fail.
                let _ = write!(out, "{:.1},{:.1} ", x(year), y(sum));
            }
            out
        };
        let lines: Vec<Line> = (drawn.iter().enumerate())
            .map(|(dash, (_, p))| {
                let band = match (at(p, p.lives.0), at(p, p.lives.1)) {
                    (Some(short), Some(long)) => {
                        let back = steps(&long, horizon, false).into_iter().rev();
                        let back = back.fold(String::new(), |mut out, (year, sum)| {
                            let _ = write!(out, "{:.1},{:.1} ", x(year), y(sum));
                            out
                        });
                        format!("{}{back}", path(&short, false))
                    }
                    _ => String::new(),
                };
                let lead = p.pack.battery.chemistry.is_lead();
                Line {
                    name: p.pack.name.clone(),
                    kind: if lead { "lead" } else { "lithium" },
                    dash,
                    path: path(&p.account, true),
                    band,
                    total: say.money(p.account.total),
                    lives: lives(p, ended_by(standings, drawn[dash].0), per_year, horizon),
                }
            })
            .collect();
        let first = &drawn[0].1;
        let crossings = drawn[1..]
            .iter()
            .filter_map(|(_, p)| {
                let year = crossing(&p.account, &first.account)?;
                let range = [p.lives.0, p.lives.1]
                    .map(|lasts| at(p, lasts).and_then(|a| crossing(&a, &first.account)));
                let sum = first.account.spent(year).value();
                Some(Crossing {
                    x: format!("{:.1}", x(year)),
                    y: format!("{:.1}", y(sum)),
                    words: crossing_words(p.pack, year, range, horizon),
                })
            })
            .collect();
        let every = if horizon > 16.0 {
            5.0
        } else if horizon > 6.0 {
            2.0
        } else {
            1.0
        };
        Some(Self {
            years: figures::amount(horizon),
            sentence: sentence(&lines, horizon),
            lines,
            crossings,
            across: ticks(horizon, every, x, figures::amount),
            down: ticks(top, step, y, |sum| whole(sum, say)),
            heads: heads(plan.rig.craft.kind.is_boat(), say),
            sums: all.iter().map(|(n, p)| sums(p, &standings[*n], plan, say)).collect(),
            unpriced,
            worth: if rules.money.discount > 0.0 {
                format!(
                    "later sums at {:.1} % a year less, in today's worth",
                    rules.money.discount * 100.0
                )
            } else {
                String::new()
            },
        })
    }
}

fn ended_by(standings: &[Standing], n: usize) -> EndedBy {
    standings[n].survey.as_ref().map_or(EndedBy::Horizon, |s| s.life.ended_by)
}

/// "lasts 5 years (3.5 to 6.5), ended by age".
fn lives(p: &Priced<'_>, ended_by: EndedBy, per_year: f64, horizon: f64) -> String {
    let year = |y: f64| figures::amount((y * 2.0).round() / 2.0);
    let lasts = p.account.used.lasts;
    let years = format!("lasts {} years ({} to {})", year(lasts), year(p.lives.0), year(p.lives.1));
    let outings = (lasts.min(horizon) * per_year).round();
    match ended_by {
        EndedBy::Cycles => format!("{years}: its cycles are used up"),
        EndedBy::Calendar => format!("{years}: age ends it, after {outings:.0} outings"),
        EndedBy::Horizon => format!("{years}: longer than you look ahead, {outings:.0} outings"),
    }
}

/// What is spent until each year, as corners: along what runs, up at each set; down at the end by what is left.
fn steps(a: &Account, horizon: f64, left: bool) -> Vec<(f64, f64)> {
    let just_before = |t: f64| (t, (a.spent(t) - a.again * a.price_share(t)).value());
    let mut out = vec![(0.0, a.spent(0.0).value())];
    for t in a.replacements(MOST_STEPS) {
        out.push(just_before(t));
        out.push((t, a.spent(t).value()));
    }
    if a.sets > MOST_STEPS {
        let from = out[out.len() - 1].0;
        out.extend((1..=20).map(|n| {
            let t = from + (horizon - from) * f64::from(n) / 20.0;
            (t, a.spent(t).value())
        }));
    }
    let end = a.spent(horizon).value();
    out.push((horizon, end));
    if left && a.left.value() > 0.0 {
        out.push((horizon, end - a.left.value()));
    }
    out
}

/// A sum on the axis: no cents on nothing.
fn whole(sum: f64, say: Say<'_>) -> String {
    say.money(Money::of(sum)).replace("0.00", "0")
}

/// 1, 2 or 5 times a power of ten, so that four to six lines are drawn.
fn round_step(most: f64) -> f64 {
    let rough = most / 5.0;
    let ten = 10_f64.powf(rough.log10().floor());
    let part = [1.0, 2.0, 5.0, 10.0].into_iter().find(|s| s * ten >= rough);
    part.unwrap_or(10.0) * ten
}

fn ticks(end: f64, step: f64, at: impl Fn(f64) -> f64, say: impl Fn(f64) -> String) -> Vec<Tick> {
    let count = (end / step + 1e-9).floor() as u32;
    let values = (0..=count).map(|n| f64::from(n) * step);
    values.map(|v| Tick { at: format!("{:.1}", at(v)), text: say(v) }).collect()
}

/// "Two Quarry AGM 31: dearer from year 4 on (3 to 6)".
fn crossing_words(pack: &Pack, year: f64, range: [Option<f64>; 2], horizon: f64) -> String {
    let name = &pack.name;
    let round = |y: f64| figures::amount((y * 2.0).round() / 2.0);
    let said = format!("{name}: dearer from year {} on", round(year));
    match range {
        [Some(short), Some(long)] if (short - long).abs() >= 0.5 => {
            format!("{said} ({} to {})", round(short.min(long)), round(short.max(long)))
        }
        [Some(short), None] => {
            format!("{said} ({} to never in {})", round(short), figures::amount(horizon))
        }
        _ => said,
    }
}

fn sentence(lines: &[Line], horizon: f64) -> String {
    let each = lines.iter().map(|l| format!("{} comes to {}", l.name, l.total));
    format!("Over {} years {}.", figures::amount(horizon), each.collect::<Vec<_>>().join(", "))
}

fn heads(boat: bool, say: Say<'_>) -> Vec<String> {
    let last = if boat {
        "an hour out".to_owned()
    } else {
        let km = say.units.unit(Measure::Distance).name == "km";
        if km { "a km" } else { "a mile" }.to_owned()
    };
    [
        "price with what it needs",
        "bought again",
        "runs in a year",
        "left at the end",
        "in all",
        "a cycle",
        "a kWh",
    ]
    .map(str::to_owned)
    .into_iter()
    .chain([last])
    .collect()
}

fn sums(p: &Priced<'_>, standing: &Standing, plan: &Plan, say: Say<'_>) -> Sums {
    let a = &p.account;
    let again = match a.sets {
        0 => "-".to_owned(),
        n => format!("{} ({n} x)", say.money(a.replaced)),
    };
    let cost = standing.survey.as_ref().and_then(|s| s.cost);
    let money = |m: Option<Money>| m.map_or_else(|| "-".to_owned(), |m| say.money(m));
    let last = if plan.rig.craft.kind.is_boat() {
        cost.and_then(|c| c.per_lake_hour)
    } else {
        let course = lake_hour_core::verdict::course(&plan.rig_as_measured(), &plan.day);
        crate::parts::lane::per_distance(cost, &course, plan, say)
    };
    let label = match p.pack.naive_cost_per_cycle() {
        Some(naive) => {
            let label = format!("{} by its label's cycles", say.money(naive));
            let why = crate::parts::lane::why_not_the_labels(p.pack, standing.survey.as_ref());
            why.map_or(label.clone(), |why| format!("{label}: {why}"))
        }
        None => "no cycles on its label".to_owned(),
    };
    Sums {
        name: p.pack.name.clone(),
        cells: vec![
            say.money(a.bought),
            again,
            say.money(a.running()),
            if a.left > Money::ZERO { say.money(a.left) } else { "-".to_owned() },
            say.money(a.total),
            money(cost.map(|c| c.per_cycle)),
            money(cost.and_then(|c| c.per_kwh)),
            money(last),
        ],
        label,
    }
}
