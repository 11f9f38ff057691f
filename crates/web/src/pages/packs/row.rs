//! A pack of the list: what it is, whether it gets home, what it costs and weighs.

use super::view::Which;
use crate::figures;
use crate::frame::judged::Judged;
use crate::parts::decision::{self, About};
use crate::parts::picture::Picture;
use lake_hour_core::pack::{Pack, stow};
use lake_hour_core::rig::Rig;
use std::sync::Arc;

/// A row of the list.
#[derive(Debug, Clone)]
pub(super) struct RowView {
    pub(super) id: String,
    pub(super) name: String,
    pub(super) build: String,
    pub(super) outcome: &'static str,
    pub(super) disc: &'static str,
    pub(super) verdict: String,
    pub(super) more: Option<String>,
    pub(super) price: String,
    pub(super) with_needs: bool,
    pub(super) mass: String,
    pub(super) picture: Option<Arc<Picture>>,
    pub(super) href: String,
    pub(super) opened: bool,
    /// Where the doubts about its label are told.
    pub(super) doubted: Option<String>,
    pub(super) on_board: bool,
}

/// "2 in series · bow box", "2 in series, 2 in parallel · 3 of 4 fit".
pub(super) fn build(pack: &Pack, rig: &Rig) -> String {
    let wired = crate::parts::lane::wired(pack);
    match stow::stow(rig, pack) {
        Some(stowage) if stowage.placed() >= pack.units() => {
            format!("{wired} · {}", stowage.held_by().join(" and "))
        }
        Some(stowage) => format!("{wired} · {} of {} fit", stowage.placed(), pack.units()),
        None if rig.bays.is_empty() => wired,
        None => format!("{wired} · size not known"),
    }
}

/// A sentence without its reason, which the opened pack tells.
fn in_short(words: &str) -> String {
    words.split(':').next().unwrap_or(words).trim_end_matches('.').to_owned()
}

pub(super) use crate::parts::decision::disc;

impl RowView {
    pub(super) fn new(which: Which, about: About<'_>, judged: &Judged) -> Self {
        let (pack, say) = (about.pack, about.say);
        let unknown = || "-".to_owned();
        Self {
            id: which.words(),
            name: pack.name.clone(),
            build: build(pack, &about.plan.rig),
            outcome: judged.counts_as().key(),
            disc: disc(judged.counts_as()),
            verdict: decision::verdict(&about, judged),
            more: decision::drive(&about, judged).map(|words| in_short(&words)),
            price: judged.price_total.map_or_else(unknown, |p| say.money(p)),
            with_needs: decision::has_needs(about.plan, pack, judged)
                && judged.price_total.is_some(),
            mass: judged.mass.map_or_else(unknown, |m| figures::mass(m, say.units)),
            picture: judged
                .drawn
                .as_ref()
                .map(|d| judged.drawn(say.clock, || Picture::of(d, judged.outcome, about))),
            href: String::new(),
            opened: false,
            doubted: None,
            on_board: about.plan.packs.iter().any(|p| is_same(p, pack)),
        }
    }
}

/// Whether a pack of the Board is this one, whatever it is called there.
pub(super) fn is_same(board: &Pack, pack: &Pack) -> bool {
    let of = |p: &Pack| p.from.as_ref().map(|f| f.name.clone());
    of(board).is_some_and(|name| Some(name) == of(pack))
        && (board.series, board.parallel) == (pack.series, pack.parallel)
}
