//! The table of verbs: each stands once, with its keys, how they are read and how they are written.

/// Makes the keys of an action, and the ways from them to an action and back. A verb gives its key, what that
/// takes and which other keys go with it; then how its action is read, of what its key takes, and which actions
/// it is written for.
macro_rules! verbs {
    (
        partners { $($(#[$about:meta])* $name:ident: $type:ty;)* }
        $($(#[$doc:meta])* $verb:ident $key:ident $(= $word:literal)?: $what:ty [$($partner:ident)*] {
            read($reader:pat_param, $named:ident) $read:block
            write($($action:tt)+) $written:block
        })*
    ) => {
        /// One thing done: one of the verbs, and what goes with it. `who` and `on` stand for the
        /// subject and the detector of the event, `on.slot.NAME` for what is in a slot of one of them.
        /// What is acted on may also be `kind:...` or `tag:...`. Where a number stands, a formula may.
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct ActionKeys {
            $($(#[$doc])*
            $(#[serde(rename = $word)])?
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $key: Option<$what>,)*
            $($(#[$about])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $name: Option<$type>,)*
        }

        /// What an action does.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        enum Verb {
            $($(#[$doc])* $verb,)*
        }

        impl Verb {
            /// All of them.
            const ALL: &[Self] = &[$(Self::$verb),*];

            /// Its key.
            fn word(self) -> &'static str {
                match self {
                    $(Self::$verb => verbs!(@word $key $($word)?),)*
                }
            }

            /// The keys that go with it.
            fn partners(self) -> &'static [&'static str] {
                match self {
                    $(Self::$verb => &[$(stringify!($partner)),*],)*
                }
            }

            /// The action, if nothing is wrong with it.
            fn read(self, reader: &mut Reader<'_>) -> Option<Action> {
                Some(match self {
                    $(Self::$verb => {
                        let $named = reader.keys.$key.clone()?;
                        let $reader = &mut *reader;
                        $read
                    })*
                })
            }
        }

        impl ActionKeys {
            /// The verbs given.
            fn verbs(&self) -> Vec<Verb> {
                let given = [$((Verb::$verb, self.$key.is_some())),*];
                given.into_iter().filter(|(_, there)| *there).map(|(verb, _)| verb).collect()
            }

            /// The keys beside a verb, and whether each is given.
            fn partners(&self) -> impl Iterator<Item = (&'static str, bool)> + use<> {
                // Every partner of a verb is one of these.
                $($(let _ = &self.$partner;)*)*
                [$((stringify!($name), self.$name.is_some())),*].into_iter()
            }

            /// The keys of an action.
            pub fn of(action: Action) -> Self {
                match action {
                    $($($action)+ => $written)*
                }
            }
        }
    };
    (@word $key:ident) => { stringify!($key) };
    (@word $key:ident $word:literal) => { $word };
}
