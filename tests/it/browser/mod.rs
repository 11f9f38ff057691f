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
