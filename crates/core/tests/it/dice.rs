//! Draws for invented owners, packs and days.

/// Numbers as if drawn, always the same: SplitMix64, G. L. Steele, D. Lea, C. H. Flood, *Fast Splittable Pseudorandom Number
/// Generators*, OOPSLA 2014; normal ones by G. E. P. Box, M. E. Muller, Ann. Math. Stat. 29 (1958) 610.
pub(crate) struct Dice(pub(crate) u64);

impl Dice {
    pub(crate) fn flat(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
    }

    pub(crate) fn normal(&mut self) -> f64 {
        let (u, v) = (1.0 - self.flat(), self.flat());
        (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
    }
}
