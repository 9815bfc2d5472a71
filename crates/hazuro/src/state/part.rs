//! Parts of the state.

/// Makes a part of the state: its fields, and what is different in it from an earlier one. Each field stands once.
macro_rules! part {
    (
        $(#[$doc:meta])*
        $name:ident as $change:ident { $($(#[$about:meta])* $field:ident: $type:ty,)* }
    ) => {
        $(#[$doc])*
        #[derive(Clone, Debug, Default, PartialEq, Hash)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub(crate) struct $name {
            $($(#[$about])* pub $field: $type,)*
        }

        #[cfg(feature = "serde")]
        $crate::state::delta::delta! { $name as $change { $($field: $type,)* } but {} }
    };
}

pub(super) use part;
