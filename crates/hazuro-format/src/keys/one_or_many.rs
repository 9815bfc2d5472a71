//! Values that may be written short: one instead of a list of one, a text instead of a table.

use std::collections::BTreeMap;
use std::fmt;
use std::marker::PhantomData;

use schemars::JsonSchema;
use serde::de::value::{MapAccessDeserializer, SeqAccessDeserializer};
use serde::de::{MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Deserializer, Serialize};

/// A table, or a list of them.
// Read by hand, so that what is wrong inside is reported where it stands.
#[derive(Clone, Debug, Serialize, JsonSchema)]
#[serde(untagged)]
pub(crate) enum OneOrMany<T> {
    /// One.
    One(T),
    /// Several.
    Many(Vec<T>),
}

/// A name, or a list of them.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a name or a list of names")]
pub(crate) enum Names {
    /// One.
    One(String),
    /// Several.
    Many(Vec<String>),
}

/// A text, or the same text in several languages.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a text, or texts by language")]
pub(crate) enum TextKeys {
    /// In the scene's language.
    Plain(String),
    /// By language.
    ByLanguage(BTreeMap<String, String>),
}

impl<T> OneOrMany<T> {
    /// All of them.
    pub fn all(&self) -> &[T] {
        match self {
            Self::One(one) => std::slice::from_ref(one),
            Self::Many(many) => many,
        }
    }

    /// Whether they are written as a list.
    pub fn is_list(&self) -> bool {
        matches!(self, Self::Many(_))
    }

    /// Of one, itself.
    pub fn of(mut all: Vec<T>) -> Self {
        match (all.len(), all.pop()) {
            (1, Some(one)) => Self::One(one),
            (_, last) => {
                all.extend(last);
                Self::Many(all)
            }
        }
    }
}

impl Names {
    /// One name, or a list of them; none of none.
    pub fn of(names: &[String]) -> Option<Self> {
        match names {
            [] => None,
            [name] => Some(Self::One(name.clone())),
            names => Some(Self::Many(names.to_vec())),
        }
    }

    /// All of them.
    pub fn all(&self) -> &[String] {
        match self {
            Self::One(one) => std::slice::from_ref(one),
            Self::Many(many) => many,
        }
    }
}

impl From<String> for Names {
    fn from(name: String) -> Self {
        Self::One(name)
    }
}

impl<'de, T: Deserialize<'de>> Deserialize<'de> for OneOrMany<T> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Either<T>(PhantomData<T>);

        impl<'de, T: Deserialize<'de>> Visitor<'de> for Either<T> {
            type Value = OneOrMany<T>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a table or a list of tables")
            }

            fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<Self::Value, A::Error> {
                T::deserialize(MapAccessDeserializer::new(map)).map(OneOrMany::One)
            }

            fn visit_seq<A: SeqAccess<'de>>(self, list: A) -> Result<Self::Value, A::Error> {
                Vec::deserialize(SeqAccessDeserializer::new(list)).map(OneOrMany::Many)
            }
        }

        deserializer.deserialize_any(Either(PhantomData))
    }
}
