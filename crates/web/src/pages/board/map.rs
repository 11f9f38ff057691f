//! Who comes first over two things: a map in cells, its axes, its key and what else may be mapped.

use super::change::Ground;
use crate::figures;
use crate::frame::view::View;
use lake_hour_core::decide::Contest;
use lake_hour_core::decide::tipping::{Driver, Map};

/// A choice of a driver for the map.
pub(crate) struct MapChoice {
    pub(crate) words: &'static str,
    pub(crate) href: String,
    pub(crate) current: bool,
}

/// Who comes first over two things.
pub(crate) struct MapPicture {
    pub(crate) across: &'static str,
    pub(crate) down: &'static str,
    pub(crate) columns: Vec<MapChoice>,
    pub(crate) rows: Vec<MapChoice>,
    /// Rectangles of one pack: (class, x, y, width) in cells.
    pub(crate) runs: Vec<(usize, usize, usize, usize)>,
    pub(crate) cells: usize,
    pub(crate) x_ticks: Vec<(String, String)>,
    pub(crate) y_ticks: Vec<(String, String)>,
    /// Where today is, in percent.
    pub(crate) today: (String, String),
    /// Who has which texture, and of how much of the map.
    pub(crate) key: Vec<(usize, String, String)>,
    pub(crate) closes: String,
}

impl Ground<'_> {
    pub(super) fn map(&self, map: &Map, contest: &Contest) -> MapPicture {
        let cells = map.across.1.len();
        let mut owners: Vec<Option<usize>> = Vec::new();
        let mut counts: Vec<usize> = Vec::new();
        let mut runs = Vec::new();
        for (row, line) in map.first.iter().enumerate() {
            let mut from = 0;
            for column in 0..=line.len() {
                if column == line.len() || line[column] != line[from] {
                    let place = owners.iter().position(|o| *o == line[from]).unwrap_or_else(|| {
                        owners.push(line[from]);
                        counts.push(0);
                        owners.len() - 1
                    });
                    counts[place] += column - from;
                    // Up is more.
                    runs.push((place, from, cells - 1 - row, column - from));
                    from = column;
                }
            }
        }
        // The pack that comes first today has the first texture, the rest by how much of the map is theirs.
        let first = self.first;
        let mut by_size: Vec<usize> = (0..owners.len()).collect();
        by_size.sort_by_key(|n| (owners[*n] != first, std::cmp::Reverse(counts[*n])));
        let class = |place: usize| by_size.iter().position(|n| *n == place).unwrap_or(0).min(7);
        for run in &mut runs {
            run.0 = class(run.0);
        }
        let all = (cells * cells) as f64;
        let key = by_size.iter().map(|n| {
            let share = figures::percent(counts[*n] as f64 / all);
            (class(*n), self.who(owners[*n]), share)
        });
        let (across, down) = (map.across.0, map.down.0);
        // From edge to edge, which are half a cell beyond the first and the last that were asked.
        let ticks = |driver: Driver, values: &[f64], flip: bool| {
            let half = (values[1] - values[0]) / 2.0;
            let (low, high) = (values[0] - half, values[cells - 1] + half);
            [0.0, 0.25, 0.5, 0.75, 1.0].map(|share| {
                let at = if flip { 1.0 - share } else { share };
                (format!("{:.0}", at * 100.0), self.value(driver, low + (high - low) * share))
            })
        };
        let today = |driver: Driver, values: &[f64]| {
            let step = values[1] - values[0];
            let now = driver.today(contest, self.order).map_or(values[0], |(today, _)| today);
            (((now - values[0]) / step + 0.5) / cells as f64 * 100.0).clamp(0.0, 100.0)
        };
        let choices = |this: Driver, other: Driver, is_across: bool| {
            let told = |d: &Driver| *d != other && d.today(contest, self.order).is_some();
            let all = Driver::ALL.into_iter().filter(told);
            all.map(|driver| {
                let pair = if is_across { (driver, other) } else { (other, driver) };
                MapChoice {
                    words: self.title(driver),
                    href: View { map: Some(pair), ..self.view }.address(self.rig),
                    current: driver == this,
                }
            })
            .collect()
        };
        MapPicture {
            across: self.title(across),
            down: self.title(down),
            columns: choices(across, down, true),
            rows: choices(down, across, false),
            runs,
            cells,
            x_ticks: ticks(across, &map.across.1, false).into(),
            y_ticks: ticks(down, &map.down.1, true).into(),
            today: (
                format!("{:.1}", today(across, &map.across.1)),
                format!("{:.1}", 100.0 - today(down, &map.down.1)),
            ),
            key: key.collect(),
            closes: View { map: None, ..self.view }.address(self.rig),
        }
    }
}
