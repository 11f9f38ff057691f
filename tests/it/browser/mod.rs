//! The pages as people use them: headless Chromium, driven through ChromeDriver.

mod driver;
mod stories;
