//! Peukert's law in its rated-hours form: the second opinion beside the law of remembered current.
//!
//! W. Peukert, Elektrotechnische Zeitschrift 20 (1897) 287. It knows steady currents only and no
//! rests (Doerffel & Sharkh, J. Power Sources 155 (2006) 395), so it widens the band and does not
//! draw the line.

/// A capacity stated over some hours, with the exponent that carries it to other currents.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Peukert {
    /// Rated capacity, `C`. [Ah]
    pub capacity: f64,
    /// Hours the rating was taken over, `H`. [h]
    pub hours: f64,
    /// The exponent, `k`: 1 for a battery that gives the same at any current.
    pub exponent: f64,
}

impl Peukert {
    /// Hours a full battery lasts at a steady current: `t = H (C/(I H))^k`. [h]
    ///
    /// The often-copied `t = C/I^k` takes `C` for the capacity at 1 A and is a mistake of units.
    pub fn runtime(&self, amps: f64) -> f64 {
        if amps <= 0.0 {
            return f64::INFINITY;
        }
        self.hours * (self.capacity / (amps * self.hours)).powf(self.exponent)
    }

    /// Ampere-hours delivered until empty at a steady current. [Ah]
    pub fn delivered(&self, amps: f64) -> f64 {
        if amps <= 0.0 { self.capacity } else { amps * self.runtime(amps) }
    }

    /// Through two known run times: `k = ln(t2/t1)/ln(I1/I2)`.
    ///
    /// `None` when the currents are equal or nothing finite comes out.
    pub fn through(amps: [f64; 2], hours: [f64; 2]) -> Option<Self> {
        let exponent = (hours[1] / hours[0]).ln() / (amps[0] / amps[1]).ln();
        exponent.is_finite().then_some(Self {
            capacity: amps[0] * hours[0],
            hours: hours[0],
            exponent,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::Peukert;

    /// Worked by the rated-hours form (Peukert 1897); naive division gives 4 h and 3.33 h.
    #[test]
    fn worked_run_times_come_out_in_the_rated_hours_form() {
        let lead = |exponent| Peukert { capacity: 105.0, hours: 20.0, exponent };
        let lfp = Peukert { capacity: 100.0, hours: 5.0, exponent: 1.02 };
        let hundred = Peukert { capacity: 100.0, hours: 20.0, exponent: 1.25 };
        for (battery, amps, hours) in [
            (hundred, 25.0, 2.675),
            (lead(1.25), 10.0, 8.938),
            (lead(1.25), 30.0, 2.264),
            (lead(1.25), 50.0, 1.195),
            (lead(1.15), 10.0, 9.533),
            (lead(1.15), 30.0, 2.695),
            (lead(1.15), 50.0, 1.498),
            (lfp, 10.0, 10.14),
            (lfp, 30.0, 3.306),
            (lfp, 50.0, 1.964),
        ] {
            let got = battery.runtime(amps);
            assert!((got / hours - 1.0).abs() < 6e-4, "{amps} A: {got} h, worked {hours} h");
        }
        assert!((hundred.delivered(25.0) - 66.87).abs() < 0.01);
        // The bare t = C/I^k would give 1.789 h: the mistake this form avoids.
        assert!((hundred.runtime(25.0) - 1.789).abs() > 0.8);
    }

    /// Algebra of the law: at I = C/H it lasts H for every exponent; exponent 1 is plain division.
    #[test]
    fn at_its_own_rate_it_lasts_its_rated_hours() {
        for exponent in [1.0, 1.03, 1.1, 1.25, 1.6] {
            let p = Peukert { capacity: 225.0, hours: 20.0, exponent };
            assert!((p.runtime(225.0 / 20.0) - 20.0).abs() < 1e-9);
        }
        let plain = Peukert { capacity: 96.0, hours: 20.0, exponent: 1.0 };
        assert!((plain.runtime(8.0) - 12.0).abs() < 1e-12);
    }

    /// A generic golf-car table (datasheets: 225 Ah at 20 h, 207 at 10 h, 185 at 5 h, 447 min at
    /// 25 A, 115 min at 75 A) gives these exponents between its neighbours.
    #[test]
    fn two_published_run_times_give_the_exponent_between_them() {
        let k = |a: [f64; 2], t: [f64; 2]| Peukert::through(a, t).expect("two rates").exponent;
        for (got, want) in [
            (k([2.5, 11.25], [100.0, 20.0]), 1.070),
            (k([11.25, 20.7], [20.0, 10.0]), 1.137),
            (k([11.25, 37.0], [20.0, 5.0]), 1.164),
            (k([11.25, 25.0], [20.0, 447.0 / 60.0]), 1.237),
            (k([25.0, 75.0], [447.0 / 60.0, 115.0 / 60.0]), 1.236),
        ] {
            assert!((got - want).abs() < 1e-3, "{got} is not {want}");
        }
        assert_eq!(Peukert::through([25.0, 25.0], [4.0, 4.0]), None);
    }
}
