//! Money over the years: what is bought now, what is bought again, what runs, what is left at the end, and what that
//! makes of an outing, a kilowatt-hour, an hour.

mod account;
mod cost;
pub mod finance;
mod terms;

pub use account::{Account, Use, crossing};
pub use cost::{Cost, NotTheLabels, not_the_labels, per_usable_kwh};
pub use terms::{Terms, USUAL_FAILING, typical_energy_price};
