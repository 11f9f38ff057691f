//! The motor's own dial: what stands on it, and how far up each mark is.

/// Most marks of a dial.
const MOST_MARKS: usize = 20;
/// Longest mark. [characters]
const LONGEST_MARK: usize = 20;

/// What stands on a motor's dial.
///
/// Inside, a control setting is 0 to 10; marks of one's own are spread evenly over it, the highest at 10.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum Dial {
    /// 1 to 10, and anything between.
    #[default]
    Tenths,
    /// 0 to 100 %.
    Percent,
    /// Its own marks.
    Marks {
        /// Speeds ahead, the lowest first.
        ahead: Vec<String>,
        /// What is on the dial besides: speeds astern, a mode that holds the place.
        besides: Vec<String>,
    },
}

/// Why something typed is no dial.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NoDial {
    /// Two marks alike.
    #[error("you typed a mark twice: type each once, low to high, as in 1, 2, 3, 4, 5")]
    Twice,
    /// No speed ahead.
    #[error("type its speeds ahead, low to high, as in 1, 2, 3, 4, 5")]
    NothingAhead,
    /// Too many, or too long.
    #[error(
        "at most 20 marks of 20 letters: for a dial without steps leave it blank, or type percent"
    )]
    TooLong,
}

/// Words by which a mark is no speed ahead.
const ASTERN: [&str; 4] = ["back", "rev", "astern", "neutral"];
const HOLDS: [&str; 4] = ["spot", "anchor", "hold", "lock"];

/// Whether a mark is a speed ahead: not `R2`, `back 1`, `spot-lock`.
fn is_ahead(mark: &str) -> bool {
    let lower = mark.to_lowercase();
    let reverse = lower.strip_prefix('r').is_some_and(|rest| {
        let rest = rest.trim();
        rest.is_empty() || rest.chars().all(|c| c.is_ascii_digit())
    });
    !reverse && ASTERN.iter().chain(&HOLDS).all(|word| !lower.contains(word))
}

impl Dial {
    /// So many speeds ahead, numbered from 1.
    pub fn steps_of(count: u32) -> Self {
        Self::Marks { ahead: (1..=count).map(|n| n.to_string()).collect(), besides: Vec::new() }
    }

    /// As its owner types it: nothing, `percent`, or its marks low to high.
    ///
    /// # Errors
    /// [`NoDial`].
    pub fn read(text: &str) -> Result<Self, NoDial> {
        let text = text.trim();
        match text.to_lowercase().as_str() {
            "" | "1 to 10" | "0 to 10" | "1-10" | "0-10" => return Ok(Self::Tenths),
            "percent" | "%" | "0 to 100 %" => return Ok(Self::Percent),
            _ => {}
        }
        let marks = text.split([',', ';', '/']).map(str::trim).filter(|m| !m.is_empty());
        Self::of(marks.map(str::to_owned).collect())
    }

    /// Of its marks, the speeds ahead low to high.
    ///
    /// # Errors
    /// [`NoDial`].
    pub fn of(marks: Vec<String>) -> Result<Self, NoDial> {
        let long = |m: &String| m.chars().count() > LONGEST_MARK;
        if marks.len() > MOST_MARKS || marks.iter().any(long) {
            return Err(NoDial::TooLong);
        }
        if marks.iter().any(String::is_empty) {
            return Err(NoDial::NothingAhead);
        }
        let twice = |n: usize| marks[..n].iter().any(|m| m.eq_ignore_ascii_case(&marks[n]));
        if (0..marks.len()).any(twice) {
            return Err(NoDial::Twice);
        }
        let (ahead, besides): (Vec<String>, Vec<String>) =
            marks.into_iter().partition(|mark| is_ahead(mark));
        if ahead.is_empty() {
            Err(NoDial::NothingAhead)
        } else {
            Ok(Self::Marks { ahead, besides })
        }
    }

    /// As it is read back by [`Self::read`].
    pub fn typed(&self) -> String {
        match self {
            Self::Tenths => String::new(),
            Self::Percent => "percent".to_owned(),
            Self::Marks { ahead, besides } => {
                ahead.iter().chain(besides).cloned().collect::<Vec<_>>().join(", ")
            }
        }
    }

    /// How many speeds ahead it has; `None` where it is stepless.
    pub fn steps(&self) -> Option<u32> {
        match self {
            Self::Marks { ahead, .. } => u32::try_from(ahead.len()).ok(),
            Self::Tenths | Self::Percent => None,
        }
    }

    /// The setting of a mark that was typed, 0 to 10; `None` for what is not on it.
    pub fn at(&self, mark: &str) -> Option<f64> {
        let mark = mark.trim();
        let bare = mark.trim_end_matches('%').trim().replace(',', ".");
        let number = || bare.parse::<f64>().ok().filter(|v| v.is_finite());
        match self {
            Self::Tenths => number().filter(|v| (0.0..=10.0).contains(v)),
            Self::Percent => number().filter(|v| (0.0..=100.0).contains(v)).map(|v| v / 10.0),
            Self::Marks { ahead, .. } => {
                if bare == "0" {
                    return Some(0.0);
                }
                let n = ahead.iter().position(|m| m.eq_ignore_ascii_case(mark))?;
                Some((n + 1) as f64 * 10.0 / ahead.len() as f64)
            }
        }
    }

    /// The mark at a setting, 0 to 10: of its own marks the nearest. Tenths and percents come as a number of theirs.
    pub fn mark(&self, setting: f64) -> Mark<'_> {
        match self {
            Self::Tenths => Mark::Number(setting),
            Self::Percent => Mark::Percent(setting * 10.0),
            Self::Marks { ahead, .. } => {
                let steps = ahead.len() as f64;
                let n = (setting / 10.0 * steps).round().clamp(0.0, steps) as usize;
                n.checked_sub(1).and_then(|n| ahead.get(n)).map_or(Mark::Off, |m| Mark::Named(m))
            }
        }
    }

    /// What is on it that is no speed ahead.
    pub fn besides(&self) -> &[String] {
        match self {
            Self::Marks { besides, .. } => besides,
            Self::Tenths | Self::Percent => &[],
        }
    }
}

/// A mark of a dial.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Mark<'a> {
    /// 0 to 10.
    Number(f64),
    /// 0 to 100. [%]
    Percent(f64),
    /// By its name.
    Named(&'a str),
    /// Below the lowest.
    Off,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_dial_is_read_as_its_owner_types_it_and_says_its_own_marks() {
        let five = Dial::read("1, 2, 3, 4, 5").expect("five speeds");
        assert_eq!((five.steps(), five.at("3"), five.at("6")), (Some(5), Some(6.0), None));
        assert_eq!(five.mark(6.0), Mark::Named("3"));
        assert_eq!(five, Dial::steps_of(5));
        let named = Dial::read("low, mid, high, R1, R2, spot-lock").expect("named");
        assert_eq!(named.besides(), ["R1", "R2", "spot-lock"]);
        assert_eq!((named.at("MID"), named.at("R1")), (Some(20.0 / 3.0), None));
        assert_eq!(named.mark(10.0), Mark::Named("high"));
        assert_eq!(Dial::read(&named.typed()), Ok(named));
        let percent = Dial::read("Percent").expect("percent");
        assert_eq!((percent.at("60 %"), percent.at("140")), (Some(6.0), None));
        assert_eq!(percent.mark(6.0), Mark::Percent(60.0));
        let tenths = Dial::read("").expect("as most are");
        assert_eq!(
            (tenths.at("7.5"), tenths.at("7,5"), tenths.at("11")),
            (Some(7.5), Some(7.5), None)
        );
        assert_eq!(Dial::read("1, 2, 2"), Err(NoDial::Twice));
        assert_eq!(Dial::read("R1, spot-lock"), Err(NoDial::NothingAhead));
        assert_eq!(Dial::read(&"9,".repeat(30)), Err(NoDial::TooLong));
        for dial in [five, percent, tenths] {
            // Every setting of it is read back as what it is called.
            for n in 0..=10 {
                let setting = f64::from(n);
                let mark = match dial.mark(setting) {
                    Mark::Number(v) | Mark::Percent(v) => v.to_string(),
                    Mark::Named(name) => name.to_owned(),
                    Mark::Off => "0".to_owned(),
                };
                let back = dial.at(&mark).expect("on it");
                assert!((back - setting).abs() <= 1.0 + 1e-9, "{mark}: {back} {setting}");
            }
        }
    }
}
