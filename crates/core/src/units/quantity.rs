//! The macros that make a quantity type, and the laws that join three of them.

/// A number that is no number: NaN or infinite, which `"NaN".parse::<f64>()` lets through.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("not a finite number")]
pub struct NotFinite;

/// Makes a newtype over `f64` with its unit, sums, differences, and scaling by a plain number.
macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $unit:literal) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default)]
        pub struct $name(f64);

        impl $name {
            /// The unit's symbol, as printed after the figure.
            pub const UNIT: &'static str = $unit;
            /// Nothing of it.
            pub const ZERO: Self = Self(0.0);

            /// A figure known to the program, such as a constant.
            ///
            /// # Panics
            /// If `value` is NaN or infinite: at compile time when used in a `const`.
            /// Figures from outside go through [`Self::try_new`].
            pub const fn of(value: f64) -> Self {
                assert!(value.is_finite(), "a quantity must be finite");
                Self(value)
            }

            /// A figure from outside the program.
            ///
            /// # Errors
            /// [`NotFinite`] for NaN and the infinities.
            pub const fn try_new(value: f64) -> Result<Self, $crate::units::NotFinite> {
                if value.is_finite() { Ok(Self(value)) } else { Err($crate::units::NotFinite) }
            }

            /// The bare number, in this type's unit.
            pub const fn value(self) -> f64 {
                self.0
            }

            /// The smaller of two.
            pub const fn min(self, other: Self) -> Self {
                Self(self.0.min(other.0))
            }

            /// The larger of two.
            pub const fn max(self, other: Self) -> Self {
                Self(self.0.max(other.0))
            }
        }

        impl std::fmt::Display for $name {
            /// The figure and its unit; a precision (`{:.1}`) sets the decimals.
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                std::fmt::Display::fmt(&self.0, f)?;
                f.write_str(concat!(" ", $unit))
            }
        }

        impl std::ops::Add for $name {
            type Output = Self;
            fn add(self, other: Self) -> Self { Self(self.0 + other.0) }
        }
        impl std::ops::AddAssign for $name {
            fn add_assign(&mut self, other: Self) { self.0 += other.0; }
        }
        impl std::ops::Sub for $name {
            type Output = Self;
            fn sub(self, other: Self) -> Self { Self(self.0 - other.0) }
        }
        impl std::ops::Mul<f64> for $name {
            type Output = Self;
            fn mul(self, times: f64) -> Self { Self(self.0 * times) }
        }
        impl std::ops::Div<f64> for $name {
            type Output = Self;
            fn div(self, by: f64) -> Self { Self(self.0 / by) }
        }
        impl std::ops::Div for $name {
            /// The ratio of two figures of one kind is a plain number.
            type Output = f64;
            fn div(self, by: Self) -> f64 { self.0 / by.0 }
        }
        impl std::iter::Sum for $name {
            fn sum<I: Iterator<Item = Self>>(all: I) -> Self { all.fold(Self::ZERO, |a, b| a + b) }
        }
    };
}

/// States one physical law, `A × B = C`, and with it both orders and both divisions.
macro_rules! product {
    ($a:ident * $b:ident = $c:ident) => {
        impl std::ops::Mul<$b> for $a {
            type Output = $c;
            fn mul(self, other: $b) -> $c {
                $c(self.0 * other.0)
            }
        }
        impl std::ops::Mul<$a> for $b {
            type Output = $c;
            fn mul(self, other: $a) -> $c {
                $c(self.0 * other.0)
            }
        }
        impl std::ops::Div<$a> for $c {
            type Output = $b;
            fn div(self, by: $a) -> $b {
                $b(self.0 / by.0)
            }
        }
        impl std::ops::Div<$b> for $c {
            type Output = $a;
            fn div(self, by: $b) -> $a {
                $a(self.0 / by.0)
            }
        }
    };
}

pub(crate) use {product, quantity};
