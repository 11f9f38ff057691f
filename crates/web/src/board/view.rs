//! What of a board is shown: all of it stands in the address.

use lake_hour_store::RigId;
use serde::Deserialize;

/// The one panel that is open.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Open {
    /// None.
    #[default]
    Nothing,
    /// The day's stretches.
    Day,
    /// One of the day's stretches: the day's panel too.
    Stretch(i64),
    /// The row for a new stretch: the day's panel too.
    NewStretch,
    /// The house rules.
    Rules,
    /// The rig.
    Rig,
    /// The form for a new pack.
    NewPack,
    /// The form of a pack.
    Pack(i64),
    /// The working of a pack.
    Working(i64),
}

impl Open {
    fn read(text: &str) -> Self {
        let id = |prefix: &str| text.strip_prefix(prefix).and_then(|id| id.parse().ok());
        match text {
            "day" => Self::Day,
            "rules" => Self::Rules,
            "rig" => Self::Rig,
            "new-pack" => Self::NewPack,
            _ => id("pack-")
                .map(Self::Pack)
                .or_else(|| id("working-").map(Self::Working))
                .unwrap_or_default(),
        }
    }

    fn words(self) -> Option<String> {
        Some(match self {
            Self::Nothing => return None,
            Self::Day | Self::Stretch(_) | Self::NewStretch => "day".to_owned(),
            Self::Rules => "rules".to_owned(),
            Self::Rig => "rig".to_owned(),
            Self::NewPack => "new-pack".to_owned(),
            Self::Pack(id) => format!("pack-{id}"),
            Self::Working(id) => format!("working-{id}"),
        })
    }

    /// The panel that holds this form.
    pub(crate) const fn panel(self) -> Self {
        match self {
            Self::Stretch(_) | Self::NewStretch => Self::Day,
            other => other,
        }
    }
}

/// In which order the lanes stand.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Order {
    /// As the owner put them.
    #[default]
    Own,
    /// By verdict, then cost of an hour.
    Best,
    /// By weight.
    Light,
    /// By cost of an hour.
    Cheap,
}

impl Order {
    pub(crate) const ALL: [(Self, &'static str); 4] = [
        (Self::Own, "your order"),
        (Self::Best, "gets home"),
        (Self::Light, "lightest"),
        (Self::Cheap, "cheapest to own"),
    ];

    const fn key(self) -> &'static str {
        match self {
            Self::Own => "own",
            Self::Best => "best",
            Self::Light => "light",
            Self::Cheap => "cheap",
        }
    }
}

/// Everything in the address behind the path.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Deserialize)]
#[serde(from = "RawView")]
pub(crate) struct View {
    pub(crate) open: Open,
    pub(crate) order: Order,
    /// A pack that stands on top whatever the order.
    pub(crate) pin: Option<i64>,
}

/// As it comes: anything unknown is as if it were not there.
#[derive(Deserialize)]
struct RawView {
    #[serde(default)]
    open: String,
    #[serde(default)]
    order: String,
    #[serde(default)]
    pin: String,
}

impl From<RawView> for View {
    fn from(raw: RawView) -> Self {
        let order = Order::ALL.iter().map(|(o, _)| *o).find(|o| o.key() == raw.order);
        Self {
            open: Open::read(&raw.open),
            order: order.unwrap_or_default(),
            pin: raw.pin.parse().ok(),
        }
    }
}

impl View {
    /// The same with another panel open.
    pub(crate) const fn opening(self, open: Open) -> Self {
        Self { open, ..self }
    }

    /// `?open=...`, or nothing when all is as usual.
    pub(crate) fn query(self) -> String {
        let mut parts = Vec::new();
        parts.extend(self.open.words().map(|o| format!("open={o}")));
        if self.order != Order::Own {
            parts.push(format!("order={}", self.order.key()));
        }
        parts.extend(self.pin.map(|id| format!("pin={id}")));
        if parts.is_empty() { String::new() } else { format!("?{}", parts.join("&")) }
    }

    /// Address of the board shown like this.
    pub(crate) fn address(self, rig: RigId) -> String {
        format!("/rigs/{}/board{}", rig.0, self.query())
    }
}
