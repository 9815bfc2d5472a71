//! The table of actions: each stands once, with its word and with what each of its fields is.

/// Makes the enumeration of the actions, and all that is known of each field by what it is:
///
/// | field | is |
/// |---|---|
/// | `acted`, `maybe_acted` | the entity acted on, or the one if any; the event is often about others |
/// | `other`, `maybe_other` | another entity that it takes for it |
/// | `part`, `maybe_part` | a description of its own, which knows what it acts on, if on anything |
/// | `with(f)` | something with numbers or entities in it, which `f` turns into something else |
/// | `named(noun)` | a name of something else than an entity |
/// | `plain` | what stays as it is |
macro_rules! actions {
    ($(#[$about_all:meta])* pub enum Action; $(
        $(#[$doc:meta])*
        $name:ident
        $({ $($(#[$about:meta])* $field:ident: $type:ty = $is:ident $(($by:path))?,)* })?
        $(( $whole:ident: $whole_type:ty = $whole_is:ident $(($whole_by:path))? ))?
        => $word:expr;
    )*) => {
        $(#[$about_all])*
        #[derive(Clone, Debug, PartialEq, Hash)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub enum Action<T = String, N = Quantity, C = Quantity<i64>> {
            $($(#[$doc])* $name $({ $($(#[$about])* $field: $type,)* })? $(($whole_type))?,)*
        }

        impl<T, N, C> Action<T, N, C> {
            /// The action's word in scene files.
            pub fn word(&self) -> &'static str {
                match self {
                    $(Self::$name $({ $($field),* })? $(($whole))? => {
                        $($(let _ = $field;)*)? $(let _ = $whole;)?
                        $word
                    })*
                }
            }

            /// Whom or what it acts on, if on an entity, and the key for that in a scene file.
            pub fn target(&self) -> Option<(&T, &'static str)> {
                let word = self.word();
                match self {
                    $(Self::$name $({ $($field),* })? $(($whole))? => None
                        $($(.or(actions!(@target $is $field word)))*)?
                        $(.or(actions!(@target $whole_is $whole word)))?,)*
                }
            }

            /// The same action said another way.
            pub(crate) fn translate<X: Translate<T, N, C>>(
                &self,
                into: &mut X,
            ) -> Result<Action<X::Entity, X::Number, X::Count>, X::Error> {
                let word = self.word();
                Ok(match self {
                    $(Self::$name $({ $($field),* })? $(($whole))? => Action::$name
                        $({ $($field: actions!(@said $is $(($by))? $field word into),)* })?
                        $((actions!(@said $whole_is $(($whole_by))? $whole word into)))?,)*
                })
            }
        }
    };

    // The key that a field has in a scene file: most stand at the verb itself.
    (@key to $word:ident) => { "to" };
    (@key of $word:ident) => { "of" };
    (@key at $word:ident) => { "at" };
    (@key on $word:ident) => { "on" };
    (@key who $word:ident) => { "who" };
    (@key tag $word:ident) => { "with" };
    (@key $field:ident $word:ident) => { $word };

    (@target acted $field:ident $word:ident) => { Some(($field, actions!(@key $field $word))) };
    (@target maybe_acted $field:ident $word:ident) => {
        $field.as_ref().map(|field| (field, actions!(@key $field $word)))
    };
    (@target part $field:ident $word:ident) => { Some((&$field.what, $word)) };
    (@target maybe_part $field:ident $word:ident) => {
        $field.target().map(|target| (target, $word))
    };
    (@target $is:ident $field:ident $word:ident) => {{
        let _ = $field;
        None
    }};

    (@said acted $field:ident $word:ident $into:ident) => {
        $into.entity($field, actions!(@key $field $word), true)?
    };
    (@said other $field:ident $word:ident $into:ident) => {
        $into.entity($field, actions!(@key $field $word), false)?
    };
    (@said maybe_acted $field:ident $word:ident $into:ident) => {
        match $field {
            Some(field) => Some($into.entity(field, actions!(@key $field $word), true)?),
            None => None,
        }
    };
    (@said maybe_other $field:ident $word:ident $into:ident) => {
        match $field {
            Some(field) => Some($into.entity(field, actions!(@key $field $word), false)?),
            None => None,
        }
    };
    (@said part $field:ident $word:ident $into:ident) => { $field.translate($into)? };
    (@said maybe_part $field:ident $word:ident $into:ident) => { $field.translate($into)? };
    (@said with ($by:path) $field:ident $word:ident $into:ident) => { $by($field, $into)? };
    (@said named ($noun:path) $field:ident $word:ident $into:ident) => {{
        $into.name($noun, $field, actions!(@key $field $word))?;
        $field.clone()
    }};
    (@said plain $field:ident $word:ident $into:ident) => { Clone::clone($field) };
}
