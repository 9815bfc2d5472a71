//! Tables of keys that may all be left out.

/// A table of keys that may all be left out.
macro_rules! optional {
    ($(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }) => {
        $(#[$about])*
        #[derive(Clone, Debug, Default, PartialEq, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct $name {
            $($(#[$doc])* #[serde(skip_serializing_if = "Option::is_none")]
            pub $field: Option<$type>,)*
        }
    };
}
pub(crate) use optional;
