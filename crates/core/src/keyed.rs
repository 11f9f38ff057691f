//! Choices by the keys that stand for them in files and forms.

/// Makes an enum of choices, each with its key (its name in `snake_case`, or what `strum(serialize)` says), the
/// way back, and all keys in a row for a sentence.
macro_rules! keyed {
    ($(#[$about:meta])* pub enum $name:ident { $($body:tt)* }) => {
        $(#[$about])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
        #[derive(strum::IntoStaticStr, strum::EnumString, strum::VariantArray)]
        #[strum(serialize_all = "snake_case")]
        pub enum $name { $($body)* }

        impl $name {
            /// The key used in files and forms.
            pub fn key(self) -> &'static str {
                self.into()
            }

            /// The one with this [`key`](Self::key).
            pub fn from_key(key: &str) -> Option<Self> {
                key.parse().ok()
            }

            /// All of them, in the order they are offered.
            pub const ALL: [Self; <Self as strum::VariantArray>::VARIANTS.len()] =
                match <Self as strum::VariantArray>::VARIANTS.first_chunk() {
                    Some(all) => *all,
                    // As long as the list it is taken from.
                    None => unreachable!(),
                };

            /// All keys, as a sentence lists them: "lfp, agm".
            pub fn keys() -> String {
                let keys: Vec<&str> = Self::ALL.iter().map(|one| one.key()).collect();
                keys.join(", ")
            }
        }
    };
}

pub(crate) use keyed;
