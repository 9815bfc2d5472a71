//! Tables of a file that are a description: each key stands once, with its words and how its value is
//! written. The structure, its default, reading, writing and the schema are made from that.

use hazuro::scene::{Among, Field, Formula};
use schemars::JsonSchema;
use serde::{Serialize, de::DeserializeOwned};

use crate::code::Code;
use crate::cure::Cure;
use crate::read::Reader;

/// A description that is a table in a file.
pub(crate) trait Table: Sized {
    /// The table as it stands in a file.
    type Keys: Clone + PartialEq + Serialize + DeserializeOwned + JsonSchema;

    /// The table that reads as this.
    fn keys(&self) -> Self::Keys;

    /// What the table describes; none if something is wrong with it, which is reported below
    /// `field`.
    fn read(keys: &Self::Keys, reader: &mut Reader<'_>, field: &Field) -> Option<Self>;
}

/// How a value stands in a file.
pub(crate) trait Notation<Value> {
    type Written;

    fn write(value: &Value) -> Self::Written;

    /// The value; none if something is wrong with it, which is reported.
    fn read(written: &Self::Written, reader: &mut Reader<'_>, field: &Field) -> Option<Value>;
}

/// As it is.
pub(crate) struct Plain;

impl<Value: Clone> Notation<Value> for Plain {
    type Written = Value;

    fn write(value: &Value) -> Value {
        value.clone()
    }

    fn read(written: &Value, _: &mut Reader<'_>, _: &Field) -> Option<Value> {
        Some(written.clone())
    }
}

/// Radians as degrees.
pub(crate) struct Degrees;

impl Notation<f64> for Degrees {
    type Written = f64;

    /// Degrees that give back the same radians, as far as there are any.
    fn write(radians: &f64) -> f64 {
        let exact = radians.to_degrees();
        let round = (exact * 1e6).round() / 1e6;
        let near = [round, exact, exact.next_up(), exact.next_down()];
        near.into_iter().find(|degrees| degrees.to_radians() == *radians).unwrap_or(exact)
    }

    fn read(degrees: &f64, _: &mut Reader<'_>, _: &Field) -> Option<f64> {
        Some(degrees.to_radians())
    }
}

/// The words for what is looked for.
pub(crate) struct Words;

impl Notation<Among> for Words {
    type Written = Vec<String>;

    fn write(among: &Among) -> Vec<String> {
        let Among { solids, bodies, zones } = *among;
        let all = [("solids", solids), ("bodies", bodies), ("zones", zones)];
        all.into_iter().filter(|(_, there)| *there).map(|(word, _)| word.to_owned()).collect()
    }

    fn read(of: &Vec<String>, reader: &mut Reader<'_>, field: &Field) -> Option<Among> {
        const KNOWN: [&str; 3] = ["solids", "bodies", "zones"];
        let mut among = Among::default();
        for (index, word) in of.iter().enumerate() {
            match word.as_str() {
                "solids" => among.solids = true,
                "bodies" => among.bodies = true,
                "zones" => among.zones = true,
                other => {
                    let help = Cure::nearest(other, KNOWN, || {
                        "give some of: solids, bodies, zones".into()
                    });
                    let message = format!("there is no `{other}` to look for");
                    reader.error(&field.item(index), Code::UnknownName, &message, help);
                    return None;
                }
            }
        }
        Some(among)
    }
}

/// The text of an expression.
pub(crate) struct Expression;

impl Notation<Option<Formula>> for Expression {
    type Written = Option<String>;

    fn write(formula: &Option<Formula>) -> Option<String> {
        formula.as_ref().map(|formula| formula.text().into())
    }

    fn read(
        text: &Option<String>,
        reader: &mut Reader<'_>,
        field: &Field,
    ) -> Option<Option<Formula>> {
        Some(reader.formula(text.as_ref(), field))
    }
}

/// A table in the table.
pub(crate) struct Nested;

impl<Value: Table> Notation<Value> for Nested {
    type Written = Value::Keys;

    fn write(value: &Value) -> Value::Keys {
        value.keys()
    }

    fn read(keys: &Value::Keys, reader: &mut Reader<'_>, field: &Field) -> Option<Value> {
        Value::read(keys, reader, field)
    }
}

/// The notation that is named, or else [`Plain`].
macro_rules! notation {
    () => {
        $crate::table::Plain
    };
    ($notation:ident) => {
        $notation
    };
}

/// The name of a key, its own or that of its field.
macro_rules! key_name {
    ($field:ident) => {
        stringify!($field)
    };
    ($field:ident $key:literal) => {
        $key
    };
}

/// Makes a description a [`Table`]: `Keys of Description`, and its keys with their words. Each may
/// have another name than its field, `field = "key"`, and a notation, `field: Type as Notation`. A
/// field of the description that is no key is named after `except`; with `shaped` its `shape` is
/// given by the keys of a shape in the same table. A default that the description does not have
/// is in the words.
macro_rules! table {
    (
        $(#[$about:meta])*
        $keys:ident of $described:ident $(except $skip:ident)? {
            $($(#[$doc:meta])* $field:ident $(= $key:literal)?: $type:ty $(as $notation:ident)?,)*
        }
    ) => {
        $(#[$about])*
        #[derive(Clone, Debug, PartialEq, serde::Deserialize, schemars::JsonSchema)]
        #[serde(deny_unknown_fields, default)]
        pub(crate) struct $keys {
            $($(#[$doc])* $(#[serde(rename = $key)])?
            pub $field: <notation!($($notation)?) as $crate::table::Notation<$type>>::Written,)*
        }

        table! {
            @impls $keys $described [$($skip)?] []
            [$($field [$($key)?] [$type] [$($notation)?])*]
        }
    };
    (
        $(#[$about:meta])*
        $keys:ident of shaped $described:ident {
            $($(#[$doc:meta])* $field:ident $(= $key:literal)?: $type:ty $(as $notation:ident)?,)*
        }
    ) => {
        $crate::keys::shape::shaped! {
            $(#[$about])*
            #[serde(default)]
            $keys {
                $($(#[$doc])* $(#[serde(rename = $key)])?
                $field: <notation!($($notation)?) as $crate::table::Notation<$type>>::Written,)*
            }
        }

        table! {
            @impls $keys $described [] [shape]
            [$($field [$($key)?] [$type] [$($notation)?])*]
        }
    };
    (
        @impls $keys:ident $described:ident [$($skip:ident)?] [$($shape:ident)?]
        [$($field:ident [$($key:literal)?] [$type:ty] [$($notation:ident)?])*]
    ) => {
        impl Default for $keys {
            fn default() -> Self {
                $crate::table::Table::keys(&$described::default())
            }
        }

        impl serde::Serialize for $keys {
            /// What differs from the default.
            fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
                use serde::ser::SerializeMap;
                let usual = Self::default();
                let mut map = serializer.serialize_map(None)?;
                $(table!(@$shape self map);)?
                $(if self.$field != usual.$field {
                    map.serialize_entry(key_name!($field $($key)?), &self.$field)?;
                })*
                map.end()
            }
        }

        impl $crate::table::Table for $described {
            type Keys = $keys;

            fn keys(&self) -> $keys {
                let Self { $($field,)* $($skip: _,)? $($shape,)? } = self;
                table! {
                    @literal $keys [$($shape)?]
                    $($field: <notation!($($notation)?) as $crate::table::Notation<$type>>::write(
                        $field,
                    ),)*
                }
            }

            fn read(
                keys: &$keys,
                reader: &mut $crate::read::Reader<'_>,
                field: &hazuro::scene::Field,
            ) -> Option<Self> {
                let usual = $keys::default();
                let mut described = Self::default();
                $(if keys.$field != usual.$field {
                    described.$field =
                        <notation!($($notation)?) as $crate::table::Notation<$type>>::read(
                            &keys.$field,
                            reader,
                            &field.key(key_name!($field $($key)?)),
                        )?;
                })*
                $(if keys.given().is_any() {
                    described.$shape = Some(reader.shape(keys.given(), field)?);
                })?
                Some(described)
            }
        }
    };
    (@literal $keys:ident [] $($fields:tt)*) => { $keys { $($fields)* } };
    (@literal $keys:ident [$shape:ident] $($fields:tt)*) => {{
        let keys = $keys {
            $($fields)*
            cuboid: None,
            sphere: None,
            capsule: None,
            cylinder: None,
            cone: None,
            hull: None,
            half_space: None,
            heights: None,
            mesh: None,
            any: None,
        };
        match $shape {
            Some(shape) => keys.shaped(shape),
            None => keys,
        }
    }};
    (@shape $self:ident $map:ident) => { $self.given().write(&mut $map)? };
}

pub(crate) use {key_name, notation, table};
