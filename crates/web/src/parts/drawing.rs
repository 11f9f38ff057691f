//! The drawing of a wiring: units in their strings, leads by sign, color and line style, what protects them.
//!
//! Positive leads are double lines, negative ones solid, the charger's dashed; each end has its sign. All in pixels of a
//! drawing as wide as it is told to be: once for a screen, once for a phone.

use super::circuit::cable;
use crate::figures;
use lake_hour_core::pack::Pack;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::wiring::{Asked, Charging, Wiring};

/// A line of the drawing.
#[derive(Debug, Clone)]
pub(crate) struct Wire {
    pub(crate) class: &'static str,
    pub(crate) path: String,
}

/// A box with words in it.
#[derive(Debug, Clone)]
pub(crate) struct Block {
    pub(crate) class: &'static str,
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) width: f64,
    pub(crate) height: f64,
}

/// Words in the drawing.
#[derive(Debug, Clone)]
pub(crate) struct Words {
    pub(crate) class: &'static str,
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) text: String,
}

/// A terminal with its sign.
#[derive(Debug, Clone)]
pub(crate) struct Sign {
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) plus: bool,
}

/// One drawing.
#[derive(Debug, Clone, Default)]
pub(crate) struct Drawing {
    pub(crate) id: &'static str,
    pub(crate) width: f64,
    pub(crate) height: f64,
    pub(crate) wires: Vec<Wire>,
    pub(crate) blocks: Vec<Block>,
    pub(crate) words: Vec<Words>,
    pub(crate) signs: Vec<Sign>,
}

/// What a drawing is made of.
pub(crate) struct Sheet<'a> {
    pub(crate) w: &'a Wiring,
    pub(crate) pack: &'a Pack,
    pub(crate) asked: &'a Asked,
    pub(crate) bays: &'a [String],
    pub(crate) width: f64,
    /// Units in a line at the most.
    pub(crate) each: usize,
    pub(crate) say: Say<'a>,
}

/// Height of a unit, of a line of them, and from a unit's corner to its terminal. [px]
const HIGH: f64 = 76.0;
const LINE: f64 = 112.0;
const IN: f64 = 17.0;

impl Sheet<'_> {
    pub(crate) fn draw(&self, id: &'static str) -> Drawing {
        let (s, p) = (self.pack.series as usize, self.pack.parallel as usize);
        let narrow = id == "narrow";
        let mut d = Drawing { id, width: self.width, ..Drawing::default() };
        let charged = !matches!(self.asked.charging, Charging::Nothing);
        let top = if charged { 96.0 } else { 34.0 };
        let across = s.min(self.each);
        let lines = s.div_ceil(self.each);
        // Room for the bars, and for each string's fuse.
        let (left, right) =
            if p > 1 { (96.0, self.width - 52.0) } else { (76.0, self.width - 62.0) };
        let gap = if narrow { 14.0 } else { 24.0 };
        let wide = ((right - left - gap * (across as f64 - 1.0)) / across as f64).min(128.0);
        let used = wide * across as f64 + gap * (across as f64 - 1.0);
        let begin = left + (right - left - used) / 2.0;
        let spot = |string: usize, place: usize| {
            let (line, column) = (place / self.each, place % self.each);
            let x = begin + column as f64 * (wide + gap);
            (x, top + (string * lines + line) as f64 * LINE)
        };
        let (plus_x, minus_x) = (34.0, self.width - 26.0);
        let bottom = top + (p * lines) as f64 * LINE - (LINE - HIGH);
        let mut ends = Vec::new();
        for string in 0..p {
            for place in 0..s {
                let (x, y) = spot(string, place);
                self.unit(&mut d, (x, y), wide, string * s + place);
                ends.push((x + IN, y + IN, x + wide - IN));
                if place + 1 < s {
                    let from = (x + wide - IN, y + IN);
                    let (nx, ny) = spot(string, place + 1);
                    d.jumper(from, (nx + IN, ny + IN), ny > y);
                }
            }
            let (first, last) = (spot(string, 0), spot(string, s - 1));
            let end = (last.0 + wide - IN, last.1 + IN);
            if p > 1 {
                d.plus(format!("M{} {} H{plus_x}", first.0 + IN, first.1 + IN));
                d.minus(format!("M{} {} H{minus_x}", end.0, end.1));
                if let Some(fuse) = self.w.string.and_then(|r| r.fuse) {
                    let words = format!("{} A", figures::typed(fuse.rating.value()));
                    d.block(
                        "part-plus",
                        (first.0 - 54.0, first.1 + IN - 12.0),
                        (46.0, 24.0),
                        &words,
                    );
                }
            }
        }
        self.bay_lines(&mut d, &spot, wide, lines);
        let first = spot(0, 0).1 + IN;
        // Beside the positive end: the fuse.
        let fused = if p > 1 { spot(p - 1, 0).1 + IN + 24.0 } else { first + 16.0 };
        let main = bottom + 72.0;
        let (negative_from, negative_x) = if p > 1 {
            // Opposite corners: the positive leaves at the last string, the negative at the first.
            let (low, high) = (spot(p - 1, 0).1 + IN, spot(p - 1, s - 1).1 + IN);
            let first_minus = spot(0, s - 1).1 + IN;
            d.plus(format!("M{plus_x} {first} V{low}"));
            d.minus(format!("M{minus_x} {first_minus} V{high}"));
            d.plus(format!("M{plus_x} {low} V{main}"));
            (first_minus, self.width - 10.0)
        } else {
            d.plus(format!("M{} {first} H{plus_x} V{main}", spot(0, 0).0 + IN));
            let last = spot(0, s - 1);
            d.minus(format!("M{} {} H{minus_x}", last.0 + wide - IN, last.1 + IN));
            (last.1 + IN, minus_x)
        };
        if p > 1 {
            d.minus(format!("M{minus_x} {negative_from} H{negative_x}"));
        }
        self.main_fuse(&mut d, (plus_x, fused), main);
        self.main(&mut d, main, (plus_x, negative_x), negative_from, narrow);
        self.charger(&mut d, &ends, (plus_x, minus_x), first);
        d
    }

    fn unit(&self, d: &mut Drawing, (x, y): (f64, f64), wide: f64, number: usize) {
        let b = &self.pack.battery;
        d.blocks.push(Block { class: "unit", x, y, width: wide, height: HIGH });
        d.signs.push(Sign { x: x + IN, y: y + IN, plus: true });
        d.signs.push(Sign { x: x + wide - IN, y: y + IN, plus: false });
        let middle = x + wide / 2.0;
        let name =
            if wide > 84.0 { format!("unit {}", number + 1) } else { (number + 1).to_string() };
        d.say("unit-name", (middle, y + 48.0), name);
        let volts = format!("{} V", figures::typed(b.nominal_voltage.value()));
        let ah = b.headline().map_or_else(
            |_| String::new(),
            |(ah, _)| format!("{} Ah", figures::amount(ah.value())),
        );
        if wide > 96.0 {
            d.say("unit-more", (middle, y + 65.0), format!("{volts} {ah}"));
        } else {
            d.say("unit-more", (middle, y + 65.0), volts);
        }
    }

    /// A dashed line around what stands in one bay.
    fn bay_lines(
        &self,
        d: &mut Drawing,
        spot: &dyn Fn(usize, usize) -> (f64, f64),
        wide: f64,
        lines: usize,
    ) {
        let (s, p) = (self.pack.series as usize, self.pack.parallel as usize);
        let bay = |unit: usize| self.bays.get(unit).map(String::as_str);
        let one = (0..s * p).all(|n| bay(n) == bay(0) && bay(0).is_some());
        let around = |d: &mut Drawing, from: (f64, f64), to: (f64, f64), name: &str| {
            let (x, y) = (from.0 - 7.0, from.1 - 8.0);
            let (width, height) = (to.0 + wide + 7.0 - x, to.1 + HIGH + 23.0 - y);
            d.blocks.push(Block { class: "bay", x, y, width, height });
            d.say("bay-name", (x + 6.0, y + height - 5.0), name.to_owned());
        };
        if one {
            let widest = spot(0, s.min(self.each) - 1);
            let last = spot(p - 1, (lines - 1) * self.each);
            return around(d, spot(0, 0), (widest.0, last.1), bay(0).unwrap_or_default());
        }
        for string in 0..p {
            let mut from = 0;
            for place in 1..=s {
                let here = bay(string * s + from);
                let on = place < s
                    && bay(string * s + place) == here
                    && place / self.each == from / self.each;
                if on {
                    continue;
                }
                if let Some(name) = here {
                    around(d, spot(string, from), spot(string, place - 1), name);
                }
                from = place;
            }
        }
    }

    /// The main fuse, beside the positive end, and what it must be.
    fn main_fuse(&self, d: &mut Drawing, (x, y): (f64, f64), main: f64) {
        let near =
            if self.say.units == System::Metric { "within 18 cm of +" } else { "within 7 in of +" };
        let (rating, kind) = match self.w.lead.fuse {
            Some(f) => (format!("{} A", figures::typed(f.rating.value())), f.kind.words()),
            None => ("none".to_owned(), "no fuse breaks its volts"),
        };
        d.block("part-plus", (x - 28.0, y), (56.0, 26.0), &rating);
        d.say("label-begin", (x + 10.0, main - 22.0), format!("{kind}, {near}"));
    }

    /// The way to the motor and back.
    fn main(
        &self,
        d: &mut Drawing,
        y: f64,
        (plus_x, minus_x): (f64, f64),
        negative_from: f64,
        narrow: bool,
    ) {
        let w = self.w;
        let (switch_x, breaker_x) = if narrow { (84.0, 122.0) } else { (252.0, 312.0) };
        let plug = (self.width - 156.0, y + 30.0);
        let plug_plus = plug.0 + 20.0;
        d.plus(format!("M{plus_x} {y} H{plug_plus} V{}", plug.1));
        d.wires.push(Wire {
            class: "switch",
            path: format!(
                "M{} {y} a13 13 0 1 0 26 0 a13 13 0 1 0 -26 0 M{} {} l15 -14",
                switch_x - 13.0,
                switch_x - 7.0,
                y + 7.0
            ),
        });
        d.say("label", (switch_x, y + 30.0), "switch".to_owned());
        if let Some(amps) = w.breaker {
            let words = if narrow { "brk" } else { "breaker" };
            let words = format!("{} A {words}", figures::typed(amps.value()));
            let width = if narrow { 62.0 } else { 92.0 };
            d.block("part-plus", (breaker_x, y - 13.0), (width, 26.0), &words);
        }
        if !narrow {
            let length =
                figures::measure(self.say.units, Measure::Length, w.lead.length.value() * 2.0, 0);
            // Where the shunt comes near, before the breaker and higher.
            let (x, y) = if self.width < 700.0 {
                (switch_x + 24.0, y - 16.0)
            } else {
                (breaker_x + 106.0, y)
            };
            d.say("label-begin", (x, y - 20.0), cable(w.lead.gauge));
            d.say(
                "label-begin",
                (x, y - 6.0),
                format!("{length} there and back: {:.2} V", w.drop.value()),
            );
        }
        d.blocks.push(Block { class: "part", x: plug.0, y: plug.1, width: 96.0, height: 44.0 });
        d.say("part-words", (plug.0 + 48.0, plug.1 + 18.0), "motor plug".to_owned());
        let volts = self.pack.voltage().value();
        let most = figures::amount(self.asked.most.value());
        d.say("unit-more", (plug.0 + 48.0, plug.1 + 35.0), format!("{volts:.0} V, {most} A"));
        let back = plug.1 + 24.0;
        d.minus(format!("M{} {back} H{minus_x} V{negative_from}", plug.0 + 96.0));
        let shunt_x = minus_x.min(self.width - 30.0) - 26.0;
        d.block("part-minus", (shunt_x, y - 24.0), (52.0, 24.0), "shunt");
        let mut bottom = plug.1 + 44.0 + 14.0;
        if let Some(run) = w.devices {
            let x = if narrow { switch_x + 24.0 } else { switch_x + 42.0 };
            let (top, low) = (y + 62.0, y + 102.0);
            d.wires.push(Wire { class: "thin-plus", path: format!("M{x} {y} V{top}") });
            let words = run.fuse.map_or_else(
                || "no fuse".to_owned(),
                |f| format!("{} A", figures::typed(f.rating.value())),
            );
            d.block("part-plus", (x - 21.0, y + 34.0), (42.0, 20.0), &words);
            let converts = self.pack.voltage().value() > 15.0;
            let title =
                if converts { format!("{volts:.0} to 12 V") } else { "12 V devices".to_owned() };
            d.blocks.push(Block { class: "part", x: x - 62.0, y: top, width: 128.0, height: 40.0 });
            d.say("part-words", (x + 2.0, top + 17.0), title);
            let devices = self.asked.devices.value();
            d.say(
                "unit-more",
                (x + 2.0, top + 33.0),
                format!("fuse block, {} A", figures::amount(devices)),
            );
            d.wires.push(Wire {
                class: "thin-minus",
                path: format!("M{} {} H{} V{back}", x + 66.0, low - 8.0, plug.0 + 108.0),
            });
            d.wires.push(Wire {
                class: "dot",
                path: format!("M{} {back} m-3 0 a3 3 0 1 0 6 0 a3 3 0 1 0 -6 0", plug.0 + 108.0),
            });
            bottom = bottom.max(low + 14.0);
        }
        d.height = bottom;
    }

    /// The charger above, each of its leads to its terminal.
    fn charger(&self, d: &mut Drawing, units: &[(f64, f64, f64)], bars: (f64, f64), first: f64) {
        let (s, p) = (self.pack.series as usize, self.pack.parallel as usize);
        let (words, targets): (String, Vec<(f64, f64)>) = match self.asked.charging {
            Charging::Nothing => return,
            Charging::Whole(amps) => {
                let ends = if p > 1 {
                    vec![(bars.0, first), (bars.1, first)]
                } else {
                    let (a, b) = (units[0], units[units.len() - 1]);
                    vec![(a.0, a.1), (b.2, b.1)]
                };
                (format!("charger, {} A", figures::amount(amps.value())), ends)
            }
            Charging::Each(amps) => {
                let each = units.iter().flat_map(|(plus, y, minus)| [(*plus, *y), (*minus, *y)]);
                (
                    format!("charger, {} x {} A", s * p, figures::amount(amps.value())),
                    each.collect(),
                )
            }
        };
        let (middle, wide) = (self.width / 2.0, 148.0);
        d.block("part", (middle - wide / 2.0, 8.0), (wide, 28.0), &words);
        let on_one_line = targets.iter().all(|t| (t.1 - targets[0].1).abs() < 1.0);
        if !on_one_line || targets.len() > 10 {
            // More leads than can be told apart: each unit's own output by its number.
            let each = matches!(self.asked.charging, Charging::Each(_));
            for (n, (x, y)) in targets.iter().enumerate() {
                let path = format!("M{x} {} V{}", y - 10.0, y - 34.0);
                d.wires.push(Wire { class: "charge", path });
                match n % 2 {
                    _ if !each => d.say("label", (*x, y - 38.0), "charger".to_owned()),
                    0 => {
                        let middle = (x + targets[n + 1].0) / 2.0;
                        d.say("label", (middle, y - 28.0), format!("output {}", n / 2 + 1));
                    }
                    _ => {}
                }
            }
            return;
        }
        let apart = (wide - 20.0) / targets.len() as f64;
        let exit = |n: usize| middle - wide / 2.0 + 10.0 + apart * (n as f64 + 0.5);
        let lefts = targets.iter().enumerate().filter(|(n, t)| t.0 < exit(*n)).count();
        for (n, (x, y)) in targets.iter().enumerate() {
            // Those to the left go out the higher the farther they go, those to the right as well: none crosses.
            let step = if *x < exit(n) { n } else { targets.len() - 1 - n };
            let level = 44.0 + 5.0 * step.min(lefts.max(targets.len() - lefts)) as f64;
            d.wires.push(Wire {
                class: "charge",
                path: format!("M{} 36 V{level} H{x} V{}", exit(n), y - 10.0),
            });
        }
    }
}

impl Drawing {
    fn plus(&mut self, path: String) {
        self.wires.push(Wire { class: "plus", path: path.clone() });
        self.wires.push(Wire { class: "plus-core", path });
    }

    fn minus(&mut self, path: String) {
        self.wires.push(Wire { class: "minus", path });
    }

    /// From a unit to the next one, in the same line or at the beginning of the next.
    fn jumper(&mut self, from: (f64, f64), to: (f64, f64), wraps: bool) {
        let path = if wraps {
            let between = to.1 - IN - 14.0;
            let (out, back) = (from.0 + IN + 10.0, to.0 - IN - 10.0);
            format!("M{} {} H{out} V{between} H{back} V{} H{}", from.0, from.1, to.1, to.0)
        } else {
            format!("M{} {} H{}", from.0, from.1, to.0)
        };
        self.wires.push(Wire { class: "jumper", path });
    }

    fn say(&mut self, class: &'static str, (x, y): (f64, f64), text: String) {
        self.words.push(Words { class, x, y, text });
    }

    fn block(
        &mut self,
        class: &'static str,
        (x, y): (f64, f64),
        (width, height): (f64, f64),
        text: &str,
    ) {
        self.blocks.push(Block { class, x, y, width, height });
        self.say("part-words", (x + width / 2.0, y + height / 2.0 + 4.5), text.to_owned());
    }
}
