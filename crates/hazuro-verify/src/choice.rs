//! Tables of which each does one of many things: the one key that says which, and the keys that go with it.

/// Makes the keys of such a table, and of what it can do an enumeration. Each choice stands once, with its
/// key, what that takes, and which other keys go with it; structure, schema, messages and what must be
/// read are made from that.
macro_rules! choice {
    (
        $(#[$about_keys:meta])*
        keys $Keys:ident { $($(#[$about_common:meta])* $common:ident: $common_type:ty,)* }

        $(#[$about_choice:meta])*
        choice $Choice:ident {
            $($(#[$doc:meta])* $choice:ident $key:ident: $what:ty [$($partner:ident)*];)*
        }

        partners { $($(#[$about:meta])* $name:ident: $type:ty;)* }
    ) => {
        $(#[$about_keys])*
        #[derive(Clone, Debug, Default, serde::Deserialize, schemars::JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct $Keys {
            $($(#[$about_common])* pub $common: $common_type,)*
            $($(#[$doc])* pub $key: Option<$what>,)*
            $($(#[$about])* pub $name: Option<$type>,)*
        }

        $(#[$about_choice])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub(crate) enum $Choice {
            $($(#[$doc])* $choice,)*
        }

        impl $Choice {
            /// All of them.
            pub const ALL: &[Self] = &[$(Self::$choice),*];

            /// Its key.
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$choice => stringify!($key),)*
                }
            }

            /// The keys that go with it.
            fn partners(self) -> &'static [&'static str] {
                match self {
                    $(Self::$choice => &[$(stringify!($partner)),*],)*
                }
            }
        }

        impl $Keys {
            /// What of all it could do it does: one thing, if it is right.
            pub fn chosen(&self) -> Vec<$Choice> {
                let given = [$(($Choice::$choice, self.$key.is_some())),*];
                given.into_iter().filter(|(_, there)| *there).map(|(it, _)| it).collect()
            }

            /// The keys given that do not go with a choice, each with the keys of those it goes with.
            pub fn strays(&self, choice: $Choice) -> Vec<(&'static str, Vec<&'static str>)> {
                // Every partner of a choice is one of these.
                $($(let _ = &self.$partner;)*)*
                let given = [$((stringify!($name), self.$name.is_some())),*];
                let takers = |name: &str| -> Vec<$Choice> {
                    let all = $Choice::ALL.iter().copied();
                    all.filter(|it| it.partners().contains(&name)).collect()
                };
                let strays = given.into_iter().filter(|(_, there)| *there).filter_map(|(name, _)| {
                    let takers = takers(name);
                    let words = takers.iter().map(|it| it.word()).collect();
                    (!takers.contains(&choice)).then_some((name, words))
                });
                strays.collect()
            }
        }
    };
}
