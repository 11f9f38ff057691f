//! A monitor's table that grows while it is read.

use super::{Columns, NotTaken, Sample, columns};

/// Fewer amps than this say nothing of their sign. [A]
const SIGN: f32 = 0.5;
/// So many rows decide it.
const ROWS: i32 = 20;

/// What a table is made of, so that its next rows can be read.
#[derive(Debug, Clone)]
pub struct Follow {
    columns: Columns,
    delimiter: u8,
    /// Rows with amps above zero less those below: on the way it is discharged, whatever sign that has there.
    sign: i32,
    seen: i32,
    turned: bool,
}

impl Follow {
    /// From the beginning of a table, and where its rows begin.
    ///
    /// # Errors
    /// [`NotTaken`] where its headings are none that are known.
    pub fn begin(text: &str) -> Result<(Self, &str), NotTaken> {
        let mut at = 0;
        for line in text.split_inclusive('\n').take(20) {
            at += line.len();
            if !columns::is_heading(line) {
                continue;
            }
            let delimiter = columns::delimiter(line);
            let mut table = reader(line, delimiter);
            let headings = table.records().next().and_then(Result::ok).unwrap_or_default();
            let columns = Columns::of(&headings.iter().collect::<Vec<_>>())?;
            return Ok((Self { columns, delimiter, sign: 0, seen: 0, turned: false }, &text[at..]));
        }
        Err(NotTaken::Columns(super::Unclear::Heading))
    }

    /// The last of further rows, as whole lines; nothing where none can be read. Positive amps discharge.
    pub fn rows(&mut self, text: &str) -> Option<Sample> {
        let mut last = None;
        for row in reader(text, self.delimiter).records().filter_map(Result::ok) {
            let sample = self.columns.sample(&row, self.delimiter != b',');
            if sample.amps.is_nan() && sample.volts.is_nan() && sample.share.is_nan() {
                continue;
            }
            if sample.amps.abs() > SIGN && self.seen < ROWS {
                self.seen += 1;
                self.sign += if sample.amps > 0.0 { 1 } else { -1 };
            }
            last = Some(sample);
        }
        if self.sign != 0 {
            self.turned = self.sign < 0;
        }
        let turn = if self.turned { -1.0 } else { 1.0 };
        last.map(|sample| Sample { amps: sample.amps * turn, ..sample })
    }
}

fn reader(text: &str, delimiter: u8) -> csv::Reader<&[u8]> {
    csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .flexible(true)
        .has_headers(false)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_row_of_a_table_that_grows_is_told() {
        let top =
            "Monitor 3\nTime;Voltage (V);Current (A);SOC (%)\n2026-09-22 07:00:00;25,6;-11,4;98\n";
        let (mut follow, rows) = Follow::begin(top).expect("headings");
        let first = follow.rows(rows).expect("a row");
        assert!((first.volts - 25.6).abs() < 1e-4 && (first.amps - 11.4).abs() < 1e-4, "{first:?}");
        assert!((first.share - 0.98).abs() < 1e-4);
        // Charged on the way: the sign that the table has stays.
        let later = follow.rows("x\n2026-09-22 07:00:02;25,6;3,0;98\n").expect("a row");
        assert!((later.amps + 3.0).abs() < 1e-4);
        assert!(follow.rows("").is_none() && follow.rows("nothing\n").is_none());
        assert!(Follow::begin("a,b\n1,2\n").is_err());
    }
}
