//! The rules of admission.

use hazuro::scene::{Admit, Field};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::read::Reader;
use crate::table::Table;

/// A table with the lists of words that a subject may meet.
macro_rules! listed {
    ($(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }) => {
        $(#[$about])*
        #[derive(Clone, Debug, Default, PartialEq, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields, default)]
        pub(crate) struct $name {
            /// Has one of these tags.
            #[serde(skip_serializing_if = "Vec::is_empty")]
            pub tags: Vec<String>,
            /// Is of one of these kinds.
            #[serde(skip_serializing_if = "Vec::is_empty")]
            pub kinds: Vec<String>,
            /// Has one of these names.
            #[serde(skip_serializing_if = "Vec::is_empty")]
            pub names: Vec<String>,
            /// Is in one of these layers.
            #[serde(skip_serializing_if = "Vec::is_empty")]
            pub layers: Vec<String>,
            $($(#[$doc])* pub $field: $type,)*
        }

        impl $name {
            /// The rule that its lists are.
            fn rule(&self) -> Admit {
                let Self { tags, kinds, names, layers, .. } = self;
                Admit::tags(tags).and_kinds(kinds).and_names(names).and_layers(layers)
            }

            /// The lists: tags, kinds and names, and layers.
            // One of the two tables has nothing else.
            #[allow(clippy::needless_update)]
            fn of_lists(lists: [&[String]; 3], layers: &[String]) -> Self {
                let [tags, kinds, names] = lists.map(<[String]>::to_vec);
                Self { tags, kinds, names, layers: layers.to_vec(), ..Self::default() }
            }
        }
    };
}

listed! {
    /// Which subjects may set off a detector. A list is met by any of its words; every list must be met.
    AdmitKeys {
        /// Players only.
        #[serde(skip_serializing_if = "Option::is_none")]
        players: Option<bool>,
        /// An expression over `who`, `on`, `count` and `time`, tested when a subject would be detected
        /// and after each action.
        #[serde(rename = "if", skip_serializing_if = "Option::is_none")]
        condition: Option<String>,
        /// But no subject that meets any of these lists.
        #[serde(skip_serializing_if = "Option::is_none")]
        not: Option<RefuseKeys>,
    }
}

listed! {
    /// What may not set off a detector: whatever meets any of these lists.
    RefuseKeys {}
}

impl Table for Admit {
    type Keys = AdmitKeys;

    fn keys(&self) -> AdmitKeys {
        let [layers, not_layers] = self.layer_lists();
        let not = RefuseKeys::of_lists(self.refused(), not_layers);
        AdmitKeys {
            players: self.is_for_players().then_some(true),
            condition: self.condition().map(|condition| condition.text().into()),
            not: (not != RefuseKeys::default()).then_some(not),
            ..AdmitKeys::of_lists(self.admitted(), layers)
        }
    }

    fn read(keys: &AdmitKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let mut admitted = keys.rule();
        if keys.players == Some(true) {
            admitted = admitted.players();
        }
        if let Some(condition) = reader.admission(keys.condition.as_ref(), &field.key("if")) {
            admitted = admitted.when(condition);
        }
        Some(match &keys.not {
            Some(not) => admitted.not(not.rule()),
            None => admitted,
        })
    }
}
