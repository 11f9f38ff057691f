//! What is done at each step of a build, how, and why then.

use super::words::{Words, area_of, volts};
use crate::figures;
use crate::parts::circuit;
use lake_hour_core::build::StepKey;
use lake_hour_core::build::reading::PULLED_WITH;
use lake_hour_core::pack::{Pack, limits};
use lake_hour_core::units::Volts;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::wiring::Charging;

/// A meter takes a pack for full a little below its charger's volts. Common practice, no source.
const NEARLY_FULL: f64 = 0.985;

impl Words<'_> {
    /// Title, how and why of a step.
    pub(super) fn told(&self, key: StepKey) -> (String, String, &'static str) {
        let job = self.job;
        let pack = job.pack;
        let boat = self.boat();
        let lead_in = pack.battery.chemistry.is_lead();
        let several = pack.units() > 1;
        let chemistry = pack.battery.chemistry.name();
        let s = |text: &str| text.to_owned();
        let old = job.aboard.map_or_else(|| s("battery"), |old| self.unit(old));
        match key {
            StepKey::LayOut => (
                s("Lay out parts, manuals and tools."),
                format!(
                    "Tick the parts list; hold a lug on a post{}. Read the manuals: where they differ from this sheet, they are right.",
                    if several { "; date codes of the units within six months" } else { "" }
                ),
                "A missing lug found now costs a trip to the shop. Found halfway, it leaves posts open overnight.",
            ),
            StepKey::Licensed => (
                s("Have it wired by someone licensed for it."),
                format!(
                    "{} V at full charge. Hand over this sheet with the picture, the parts and the manuals.",
                    volts(
                        pack.full_charge_voltage()
                            .max(job.aboard.map_or(Volts::ZERO, Pack::full_charge_voltage))
                    )
                ),
                "Above 60 V DC the taking out, the wiring and the tightening are not work for an owner.",
            ),
            StepKey::Park if boat => (
                s("Boat on its trailer or tied up at both ends."),
                s("Level, in the shade, out of the rain; the tray open."),
                "Nothing may tip or drift while you lift weight over the side.",
            ),
            StepKey::Park => (
                if job.leans() {
                    s("On its stand, key off.")
                } else {
                    s("Level ground, key off, tow switch to TOW, chocks at the wheels.")
                },
                s("Parking brake set, out of gear, key in your pocket."),
                "The tow switch takes the controller off the pack, so that nothing drives when a post is touched.",
            ),
            StepKey::Unplug => (
                if boat {
                    s("Unplug the charger and the motor.")
                } else {
                    s("Unplug the charger, at the wall first.")
                },
                s("Solar panels and any other source come off too."),
                "A source that is still joined keeps posts alive that you take for dead.",
            ),
            StepKey::Guard => (
                s("Goggles and gloves on, rings and watch off."),
                s("Tape wrench handles; water and baking soda within reach; doors open, no flame."),
                "The two ways people get hurt here: a tool across two posts welds itself on, and acid in the eyes.",
            ),
            StepKey::PictureOld => (
                s("Photograph the old wiring; label every cable."),
                s(
                    "Tape and marker: M+ and M- for the motor, C+ and C- for the charger, and what each small wire feeds.",
                ),
                "It is the only drawing of how this craft was really wired.",
            ),
            StepKey::FindTaps => (
                s("Find each 12 V thing that hangs on one battery only."),
                s(
                    "Small wires on a post between the ends: lights, horn, pump, radio, gauge. Write down each.",
                ),
                "Off one battery of a set they drain it alone. On the new pack they go on the converter: left where they were, they get the full volts and burn.",
            ),
            StepKey::SwitchOff => (
                s("Switch everything off; main fuse out or breaker open."),
                s("Lights, pump, sonar, motor; then the main switch."),
                "No current, no spark at the first post.",
            ),
            StepKey::OldNegative => (
                s("Take off the pack's last negative first."),
                s("The lug that goes to the motor or hull. Tape it, tie it back."),
                "With the negative off, a wrench that touches hull or frame closes no circuit.",
            ),
            StepKey::OldPositive => (
                s("Take off the pack's positive."),
                s("Tape it and tie it back."),
                "Now the pack is apart from everything but itself.",
            ),
            StepKey::OldTaps => (
                s("Take off the small wires between the ends."),
                s("Tape each; its label stays on."),
                "They come off before the jumpers, while each is where the photograph shows it.",
            ),
            StepKey::OldJumpers => (
                s("Take off the jumpers, one at a time."),
                s("Both ends of one, then the next; a cover on each bare post."),
                "Each jumper less halves what a slip can do.",
            ),
            StepKey::LiftOut => (
                format!("Lift out the old {old}."),
                format!(
                    "{}. Upright, by strap or handle, back straight.",
                    figures::capital(&job.aboard.map_or_else(String::new, |old| self.weighs(old)))
                ),
                "Carried tilted, lead spills acid.",
            ),
            StepKey::Recycle => (
                if job.takes_lead_out() {
                    s("Take the lead to a shop that recycles it.")
                } else {
                    s("Take the old lithium to a collection point.")
                },
                if job.takes_lead_out() {
                    s("Shops pay a core price. Upright in a tub on the way.")
                } else {
                    s("Ends taped. Never into the trash: it burns there.")
                },
                "Lead and acid are poison in a landfill; almost all of a lead battery is used again.",
            ),
            StepKey::Neutralize => (
                s("Wash the tray with baking soda until it stops fizzing."),
                format!(
                    "{}, brush, rinse, dry. White or green crust is acid too.",
                    if self.say.units == System::Metric {
                        "100 g in 2 L of water"
                    } else {
                        "Half a cup in half a gallon of water"
                    }
                ),
                "Old acid eats new lugs and the tray under them.",
            ),
            StepKey::LookOver => (
                s("Look the tray over: rust, cracks, loose bolts."),
                format!(
                    "It must carry {} and keep them from moving.",
                    pack.mass()
                        .map_or_else(|| s("the new units"), |m| figures::mass(m, self.say.units))
                ),
                "A tray that gives way does so on a wave or a bump.",
            ),
            StepKey::Paint => (
                s("Paint bare metal with acid-proof paint; let it dry."),
                s("Two thin coats."),
                "Once the units stand in it nobody gets at it again.",
            ),
            StepKey::CutVent => (
                s("Open two vents, one low, one high."),
                format!("Free area of each: {}.", self.openings()),
                "Lead gives off hydrogen while it charges; 4 % of it in air burns. Sized by IEC 62485-2.",
            ),
            StepKey::UnitVolts => (
                if several {
                    s("Measure each new unit at rest.")
                } else {
                    s("Measure the new battery at rest.")
                },
                s("Red on +, black on -, meter on DC volts. Write down the lowest."),
                "A unit that came empty or dead is found before it is strapped in.",
            ),
            StepKey::ChargeEach => (
                s("Charge each unit alone to full."),
                format!(
                    "A {chemistry} charger for {} V, indoors, until it ends by itself.",
                    figures::typed(pack.battery.nominal_voltage.value())
                ),
                "Units in series get the same current. One that begins lower never gets full, and its BMS ends every outing.",
            ),
            StepKey::Alike => (
                s("Measure all units against each other."),
                s("After some hours of rest."),
                "A set is as good as its weakest unit; this is the last time that is seen easily.",
            ),
            StepKey::LayPad => (
                s("Lay the soft pad."),
                s("Rubber or closed foam, no screw heads under it."),
                "Cases crack where a point carries them.",
            ),
            StepKey::PlaceUnits => (
                if several {
                    s("Set the units as in the picture.")
                } else {
                    s("Set the battery as in the picture.")
                },
                format!(
                    "{}. Posts so that each jumper is short; room above for covers and strap.",
                    figures::capital(&self.weighs(pack))
                ),
                "Turned the wrong way round, the jumpers do not reach, or cross.",
            ),
            StepKey::HoldDown => (
                s("Strap down, hand tight, then pull at it."),
                if boat {
                    format!(
                        "With {} for a minute it may move no more than that.",
                        figures::measure(self.say.units, Measure::Force, PULLED_WITH, 0)
                    )
                } else {
                    s("Pull hard in every direction.")
                },
                "33 CFR 183.420 and ABYC E-10 ask for no more than an inch of movement; on a road the same is wise.",
            ),
            StepKey::MountParts => (
                s("Screw down fuse holder, switch and the rest."),
                format!(
                    "Fuse within {} of +; {}plugs and leads where nobody steps or trips.",
                    self.inches(7.0),
                    if job.needs_converter() { "converter where air gets at it; " } else { "" }
                ),
                "The stretch from post to fuse is the only one that nothing protects (33 CFR 183.455).",
            ),
            StepKey::MakeCables => (
                s("Cut, crimp and lead the cables."),
                format!(
                    "Lugs crimped, not soldered; heat-shrink; a clamp every {}; grommets at holes. Mark + and -.",
                    self.inches(18.0)
                ),
                "A cable that rubs through on the way to the motor is a short behind the fuse.",
            ),
            StepKey::FuseOut => (
                s("Fuse out of its holder, switch and breaker off."),
                s("Keep the fuse in your pocket."),
                "All that follows is done on a circuit that cannot be closed by accident.",
            ),
            StepKey::JoinUnits => (
                s("Jumpers: - of one unit to + of the next."),
                format!(
                    "{} {}. Cover the posts you are not at.",
                    pack.parallel * (pack.series - 1),
                    if pack.parallel * (pack.series - 1) == 1 { "jumper" } else { "jumpers" }
                ),
                "Series adds volts; a jumper from + to - of the same unit is a short.",
            ),
            StepKey::StringVolts => (
                s("Measure every string, open at its ends."),
                s("Fuses of the strings still out."),
                "Strings of other volts, once joined, fill each other through the bars without limit.",
            ),
            StepKey::JoinStrings => (
                s("Join the strings: all + to one bar, all - to the other."),
                s(
                    "The motor's leads go on opposite corners: + on the last string, - on the first.",
                ),
                "From one end the near string would do most of the work and wear out first.",
            ),
            StepKey::Positive => (
                s("The + side: post, fuse holder, switch, breaker, motor lead."),
                format!("{}.", self.main_cable()),
                "Done first, with the fuse out, so that nothing past it can be live.",
            ),
            StepKey::NegativeSide => (
                s("The - side: motor lead to the shunt; not yet to the battery."),
                s("The meter's shunt is the only thing on the battery's - at the end."),
                "What goes past the shunt is not counted.",
            ),
            StepKey::WireDevices => (
                if job.needs_converter() {
                    s("Converter and small fuses, after the main switch.")
                } else {
                    s("Small fuses for the 12 V things, after the main switch.")
                },
                if job.needs_converter() {
                    s(
                        "Its own fuse at its +; its output to the fuse block; every labelled small wire to a fuse there.",
                    )
                } else {
                    s("A fuse for each; every labelled small wire to its own.")
                },
                "Off one battery of a set they would unbalance it; unfused, a thin wire burns long before the main fuse opens.",
            ),
            StepKey::WireCharger => (
                s("Charger leads, still unplugged from the wall."),
                match job.asked.charging {
                    Charging::Each(_) => {
                        s("Each output to a unit of its own, + to + and - to -; a fuse at each +.")
                    }
                    _ => s("+ and - to the ends of the pack; a fuse at its +."),
                },
                "Units below the top feed a lead too: each is fused at its own +.",
            ),
            StepKey::Tighten => (
                s("Draw every lug to its torque."),
                s("Lug flat on the post, washers above it, no wing nuts. A dab of grease over it."),
                "Loose lugs get hot; most burnt posts were never tight.",
            ),
            StepKey::Polarity => (
                s("Measure across the two open ends."),
                s(
                    "Red on the fuse holder's battery side, black on the shunt's loose lug. No minus sign may show.",
                ),
                "The last chance to find a reversed or a missing unit before it costs a controller.",
            ),
            StepKey::NegativeLast => (
                s("The negative last: shunt to the battery's -, drawn tight."),
                s("Fuse still out, switch still off."),
                "Negative last on is the same rule as negative first off.",
            ),
            StepKey::CoverPosts => (
                s("Boots on every post, lid on."),
                s("No bare metal that a dropped tool could reach."),
                "From here on everything is live.",
            ),
            StepKey::FuseIn => (
                s("Put the fuse in."),
                s("Switch and breaker still off."),
                "It joins nothing yet; a spark here means a short before the switch.",
            ),
            StepKey::FillCapacitors => (
                s("Fill the controller's capacitors through the resistor."),
                s("Hold the button for five seconds, then switch on within a few more."),
                "Empty capacitors take hundreds of amperes for an instant: it pits switch and solenoid.",
            ),
            StepKey::SwitchOn => (
                s("Switch on; measure at the motor's plug or controller."),
                s("Everything else still off."),
                "The whole way is there, and the right way round.",
            ),
            StepKey::SetLimits => (
                s("Set the controller's limits."),
                format!(
                    "High limit above {} V; low cut-off as beside.{}",
                    volts(pack.full_charge_voltage()),
                    if job.plan.rig.motor.regenerates && !lead_in {
                        " Braking current down, or off when full."
                    } else {
                        ""
                    }
                ),
                "Limits that fit the old chemistry stop the motor early, or too late.",
            ),
            StepKey::SetProfile => (
                format!("Set the charger to {chemistry}; measure what it holds."),
                if lead_in {
                    s("In absorption, after the current falls.")
                } else {
                    s("Near the end of a charge. Equalizing and desulfating off.")
                },
                "The name on a button is not proof; the meter is.",
            ),
            StepKey::Interlock => (
                s("Plug the charger in, try to drive: it must not move."),
                format!(
                    "Drive wheels lifted or chocked, switch to RUN, a touch on the pedal. {}",
                    if job.leans() {
                        "If it has none, say so in the note."
                    } else {
                        "Then unplug and put it back."
                    }
                ),
                "A plugged-in craft that drives off tears out its cord and runs people down. Conversions forget the interlock.",
            ),
            StepKey::FirstCharge => (
                s("First charge, to full, with you there."),
                if lead_in {
                    s("Overnight; feel the cases now and then: hand-warm is right.")
                } else {
                    s("Until the charger ends by itself. Feel lugs and case now and then.")
                },
                "A fault shows in the first hours, and the meter is set on a full pack.",
            ),
            StepKey::Balance => (
                s("Leave it on the charger an hour more; measure the units again."),
                s("Highest less lowest, still at rest."),
                "Each BMS bleeds its full cells while the charger holds the volts. That is the balancing.",
            ),
            StepKey::Water => (
                s("Top up with distilled water, after the charge."),
                s("Plates just covered before, to the mark after. Never tap water, never acid."),
                "Filled before the charge, cells overflow.",
            ),
            StepKey::SetMeter => (
                s("Set the meter."),
                self.meter(),
                "It counts ampere-hours: with a wrong capacity or zero it tells a wrong charge all season.",
            ),
            StepKey::Ride => (
                if boat {
                    s("Look how she sits; shift weight until level.")
                } else {
                    s("Check how it sits; set tire pressure.")
                },
                self.ride(),
                "Springs, trim and tires were right for the old weight.",
            ),
            StepKey::TrialRun => (
                match limits::below_full_throttle(pack, &job.plan.rig.motor) {
                    None => s("A short run at full throttle, three minutes; read the volts."),
                    Some(_) => match job.setting_borne() {
                        Some(setting) if boat => format!(
                            "A short run at setting {}, three minutes; read the volts.",
                            figures::setting(&job.plan.rig.motor.dial, setting)
                        ),
                        _ => s("A short run, three minutes; read the volts."),
                    },
                },
                if boat {
                    s("Tied to the dock first, then along the shore.")
                } else {
                    s("Round the lot, then up one hill.")
                },
                "Under load every bad joint and weak unit shows.",
            ),
            StepKey::FeelLugs => (
                s("Switch off; feel every lug with the back of your hand."),
                s("None warmer than the cable beside it."),
                "Warm is loose. Found today it is a wrench; in a month it is a burnt post.",
            ),
            StepKey::AfterFirst => (
                s("After the first outing: draw all lugs again, compare."),
                s("Straps, covers, plugs; ampere-hours taken against the plan's day."),
                "Copper settles: the first hours loosen lugs.",
            ),
            StepKey::AfterMonth => (
                s("After a month: lugs, straps, volts of each unit."),
                if lead_in {
                    s("Water, crust on the posts, specific gravity if you have the float.")
                } else {
                    s("Charge to full once so that the cells balance.")
                },
                "A unit that strays shows now; caught early it is still under warranty.",
            ),
        }
    }

    fn openings(&self) -> String {
        let area = lake_hour_core::pack::air::air(self.job.pack).map_or(0.0, |air| air.openings);
        area_of(area, self.say.units)
    }

    fn main_cable(&self) -> String {
        let lead = &self.job.wiring.lead;
        let fuse =
            lead.fuse.as_ref().map_or_else(String::new, |f| format!(", {}", circuit::fuse(f)));
        format!("{}{fuse}", circuit::cable(lead.gauge))
    }

    /// What a meter of charge is set to.
    fn meter(&self) -> String {
        let pack = self.job.pack;
        if pack.battery.monitor == Some(true) {
            return "The battery tells its charge itself: pair it, name it, check that it shows 100 % now.".to_owned();
        }
        let capacity = self.job.capacity.value();
        let full = pack.full_charge_voltage();
        format!(
            "Capacity {} Ah; full at {} V and under {} A; empty at {} V; zero current with all off; then set it to 100 %. Alarm at {:.0} %.",
            figures::amount(capacity),
            volts(full * NEARLY_FULL),
            figures::amount(capacity * pack.battery.chemistry.facts().acceptance.tail_end),
            volts(pack.battery.end_voltage() * f64::from(pack.series)),
            self.job.plan.rules.reserve_level(pack.battery.chemistry) * 100.0
        )
    }

    fn ride(&self) -> String {
        let Some(by) = self.job.heavier_by() else {
            return "The weights are not on the labels.".to_owned();
        };
        let much =
            figures::mass(lake_hour_core::units::Kilograms::of(by.value().abs()), self.say.units);
        let way = if by.value() < 0.0 { "lighter" } else { "heavier" };
        if self.boat() {
            format!("{much} {way} than before. A boat that trims by the bow steers badly.")
        } else if by.value() < 0.0 {
            format!(
                "{much} {way}: it rides stiffer; softer springs or less air in the rear tires, as its manual allows."
            )
        } else {
            format!("{much} {way}: more air in the rear tires, as its manual allows.")
        }
    }
}
