//! The pages as people use them: headless Chromium, driven through ChromeDriver.

mod build;
mod decide;
mod driver;
mod hands;
mod live;
mod log;
mod looks;
mod packs;
mod random;
mod rig_and_day;
mod shelf;
mod stories;
mod windows;

/// The tabs of a rig, in their order: the one list of them here, held against the page's own by `hands`.
const TABS: [&str; 8] = ["rig", "day", "shelf", "packs", "board", "build", "log", "live"];
