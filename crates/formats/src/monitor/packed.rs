//! Rows as they are kept: each figure as its difference from the row before, few bytes a row.

use super::Sample;

/// Steps of each figure: seconds, millivolts, hundredths of an amp, ten-thousandths of the charge, tenths of a degree.
const STEPS: [f32; 4] = [1_000.0, 100.0, 10_000.0, 10.0];
/// Stands for what is not told.
const NONE: i32 = i32::MIN / 2;

/// Rows as bytes.
pub fn pack(samples: &[Sample]) -> Vec<u8> {
    let mut out = Vec::with_capacity(samples.len() * 6);
    let mut before = [0_i32; 5];
    for s in samples {
        let step = |v: f32, n: usize| {
            if v.is_finite() { (v * STEPS[n]).round().clamp(-1e9, 1e9) as i32 } else { NONE }
        };
        let at = i32::try_from(s.at).unwrap_or(i32::MAX);
        let now = [at, step(s.volts, 0), step(s.amps, 1), step(s.share, 2), step(s.warm, 3)];
        for (now, before) in now.iter().zip(&mut before) {
            let moved = i64::from(*now) - i64::from(*before);
            // Small steps either way are small numbers.
            write(&mut out, ((moved << 1) ^ (moved >> 63)) as u64);
            *before = *now;
        }
    }
    out
}

fn write(out: &mut Vec<u8>, mut value: u64) {
    while value >= 0x80 {
        out.push((value & 0x7f) as u8 | 0x80);
        value >>= 7;
    }
    out.push(value as u8);
}

/// Rows from their bytes; `None` where these are none.
pub fn unpack(bytes: &[u8]) -> Option<Vec<Sample>> {
    let mut samples = Vec::new();
    let mut before = [0_i64; 5];
    let mut bytes = bytes.iter();
    while bytes.len() > 0 {
        for value in &mut before {
            let (mut read, mut shift) = (0_u64, 0);
            loop {
                let byte = *bytes.next()?;
                if shift > 63 {
                    return None;
                }
                read |= u64::from(byte & 0x7f) << shift;
                shift += 7;
                if byte & 0x80 == 0 {
                    break;
                }
            }
            let moved = (read >> 1) as i64 ^ -((read & 1) as i64);
            *value = value.checked_add(moved)?;
        }
        let figure = |n: usize| {
            let steps = before[n + 1];
            if steps == i64::from(NONE) { f32::NAN } else { steps as f32 / STEPS[n] }
        };
        samples.push(Sample {
            at: u32::try_from(before[0]).ok()?,
            volts: figure(0),
            amps: figure(1),
            share: figure(2),
            warm: figure(3),
        });
    }
    Some(samples)
}
