//! A text taken apart: its values, whether it was TOML or JSON. What it should say is read from here, so
//! that a mistake has the same words and the same place in both.

use std::fmt;

use hazuro::scene::{Field, Step, nearest};

use crate::code::Code;
use crate::cure::Cure;
use serde::de::{
    DeserializeSeed, Error, Expected, IntoDeserializer, MapAccess, SeqAccess, Unexpected, Visitor,
};
use serde::{Deserialize, Deserializer, forward_to_deserialize_any};
use toml::de::{DeTable, DeValue};

/// A value of a text.
#[derive(Debug)]
pub(crate) enum Value {
    Nothing,
    Flag(bool),
    Whole(i64),
    /// A whole number above all those that `Whole` can be.
    Large(u64),
    Number(f64),
    Text(String),
    /// A date or a time, which nothing of ours is.
    Date,
    List(Vec<Self>),
    Table(Vec<(String, Self)>),
}

impl Value {
    pub fn of_toml_table(table: &DeTable<'_>) -> Self {
        let all = table.iter();
        let all =
            all.map(|(key, value)| (key.get_ref().to_string(), Self::of_toml(value.get_ref())));
        Self::Table(all.collect())
    }

    fn of_toml(value: &DeValue<'_>) -> Self {
        match value {
            DeValue::String(text) => Self::Text(text.to_string()),
            DeValue::Boolean(flag) => Self::Flag(*flag),
            DeValue::Integer(number) => {
                let (digits, radix) = (number.as_str(), number.radix());
                i64::from_str_radix(digits, radix)
                    .map(Self::Whole)
                    .or_else(|_| u64::from_str_radix(digits, radix).map(Self::Large))
                    .unwrap_or_else(|_| Self::Number(digits.parse().unwrap_or(f64::INFINITY)))
            }
            DeValue::Float(number) => Self::Number(number.as_str().parse().unwrap_or(f64::NAN)),
            DeValue::Datetime(_) => Self::Date,
            DeValue::Array(list) => {
                Self::List(list.iter().map(|value| Self::of_toml(value.get_ref())).collect())
            }
            DeValue::Table(table) => Self::of_toml_table(table),
        }
    }
}

impl<'de> Deserialize<'de> for Value {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Any;

        impl<'de> Visitor<'de> for Any {
            type Value = Value;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a value")
            }

            fn visit_unit<E>(self) -> Result<Value, E> {
                Ok(Value::Nothing)
            }

            fn visit_bool<E>(self, flag: bool) -> Result<Value, E> {
                Ok(Value::Flag(flag))
            }

            fn visit_i64<E>(self, number: i64) -> Result<Value, E> {
                Ok(Value::Whole(number))
            }

            fn visit_u64<E>(self, number: u64) -> Result<Value, E> {
                Ok(i64::try_from(number).map_or(Value::Large(number), Value::Whole))
            }

            fn visit_f64<E>(self, number: f64) -> Result<Value, E> {
                Ok(Value::Number(number))
            }

            fn visit_str<E>(self, text: &str) -> Result<Value, E> {
                Ok(Value::Text(text.into()))
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Value, A::Error> {
                let mut all = Vec::new();
                while let Some(value) = list.next_element()? {
                    all.push(value);
                }
                Ok(Value::List(all))
            }

            fn visit_map<A: MapAccess<'de>>(self, mut table: A) -> Result<Value, A::Error> {
                let mut all: Vec<(String, Value)> = Vec::new();
                while let Some(key) = table.next_key::<String>()? {
                    let value = table.next_value()?;
                    all.push((key, value));
                }
                Ok(Value::Table(all))
            }
        }

        deserializer.deserialize_any(Any)
    }
}

/// Why a value is not what it should be, and where.
#[derive(Debug)]
pub(crate) struct Misfit {
    /// The way to it, from the inside out.
    path: Vec<Step>,
    /// Whether the key is meant, and not its value.
    pub at_key: bool,
    pub code: Code,
    pub message: String,
    pub help: Option<Cure>,
}

impl Misfit {
    fn new(code: Code, message: String) -> Self {
        Self { path: Vec::new(), at_key: false, code, message, help: None }
    }

    fn within(mut self, step: Step) -> Self {
        self.path.push(step);
        self
    }

    /// Where it is.
    pub fn field(&self) -> Field {
        self.path.iter().rev().fold(Field::ROOT, |field, step| match step {
            Step::Key(key) => field.key(key),
            Step::Item(index) => field.item(*index),
        })
    }

    /// A name that is none of those that can be here.
    fn unknown(name: &str, known: &[&str]) -> Self {
        let list = known.join(", ");
        let help = match nearest(name, known.iter().copied()) {
            Some(nearest) => Cure::meant(name, nearest).and(&format!("Known here: {list}")),
            None => format!("known here: {list}").into(),
        };
        let message = format!("there is no key `{name}` here");
        Self { help: Some(help), ..Self::new(Code::UnknownKey, message) }
    }
}

impl fmt::Display for Misfit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

impl std::error::Error for Misfit {}

impl Error for Misfit {
    /// For what is one of several kinds of value: the kinds.
    fn custom<T: fmt::Display>(kinds: T) -> Self {
        Self::new(Code::WrongType, format!("this should be {kinds}"))
    }

    fn invalid_type(found: Unexpected<'_>, expected: &dyn Expected) -> Self {
        let expected = plain(&expected.to_string());
        Self::new(Code::WrongType, format!("this is {}, but should be {expected}", words(found)))
    }

    fn invalid_value(found: Unexpected<'_>, expected: &dyn Expected) -> Self {
        Self::invalid_type(found, expected)
    }

    fn invalid_length(length: usize, expected: &dyn Expected) -> Self {
        let expected = expected.to_string();
        let message = format!("this is a list of {length}, but should be {}", plain(&expected));
        Self::new(Code::WrongType, message)
    }

    fn unknown_field(name: &str, known: &'static [&'static str]) -> Self {
        Self::unknown(name, known)
    }

    fn unknown_variant(name: &str, known: &'static [&'static str]) -> Self {
        Self::unknown(name, known)
    }

    fn missing_field(name: &'static str) -> Self {
        let help = Some(format!("add `{name} = ...`").into());
        let message = format!("the key `{name}` is missing here");
        Self { help, ..Self::new(Code::MissingKey, message) }
    }

    fn duplicate_field(name: &'static str) -> Self {
        Self::new(Code::DuplicateKey, format!("the key `{name}` is here twice"))
    }
}

/// What was found, in plain words.
fn words(found: Unexpected<'_>) -> String {
    match found {
        Unexpected::Bool(flag) => format!("the value `{flag}`"),
        Unexpected::Unsigned(number) => format!("the number `{number}`"),
        Unexpected::Signed(number) => format!("the number `{number}`"),
        // Not with all its digits.
        Unexpected::Float(number) => format!("the number `{}`", hazuro::shown_number(number)),
        Unexpected::Str(text) => format!("the text {text:?}"),
        Unexpected::Unit | Unexpected::Option => "nothing".into(),
        Unexpected::Seq => "a list".into(),
        Unexpected::Map => "a table".into(),
        other => plain(&other.to_string()),
    }
}

/// A type as a reader names it, in plain words.
fn plain(word: &str) -> String {
    let known = match word {
        "f64" => "a number",
        "u8" => "a whole number from 0 to 255",
        "u32" => "a whole number from 0 to 4294967295",
        "u64" | "usize" => "a whole number from 0",
        "i32" => "a whole number from -2147483648 to 2147483647",
        "i64" => "a whole number",
        "a boolean" => "true or false",
        "a string" => "a text",
        "a sequence" => "a list",
        "a map" => "a table",
        "an array of length 3" => "a list of 3 numbers",
        "an array of length 4" => "a list of 4 numbers",
        word if word.starts_with("struct ") => "a table",
        word => word,
    };
    known.into()
}

impl<'de> Deserializer<'de> for Value {
    type Error = Misfit;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Misfit> {
        match self {
            Self::Nothing => visitor.visit_unit(),
            Self::Flag(flag) => visitor.visit_bool(flag),
            Self::Whole(number) => visitor.visit_i64(number),
            Self::Large(number) => visitor.visit_u64(number),
            Self::Number(number) => visitor.visit_f64(number),
            Self::Text(text) => visitor.visit_string(text),
            Self::Date => Err(Misfit::invalid_type(Unexpected::Other("a date"), &visitor)),
            Self::List(list) => visitor.visit_seq(Items { all: list.into_iter(), index: 0 }),
            Self::Table(table) => visitor.visit_map(Entries { all: table.into_iter(), next: None }),
        }
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Misfit> {
        match self {
            Self::Nothing => visitor.visit_none(),
            value => visitor.visit_some(value),
        }
    }

    fn deserialize_tuple<V: Visitor<'de>>(
        self,
        length: usize,
        visitor: V,
    ) -> Result<V::Value, Misfit> {
        match &self {
            Self::List(list) if list.len() != length => {
                Err(Misfit::invalid_length(list.len(), &visitor))
            }
            _ => self.deserialize_any(visitor),
        }
    }

    /// A table alone: a list of its values in order is none.
    fn deserialize_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Misfit> {
        match self {
            Self::List(_) => Err(Misfit::invalid_type(Unexpected::Seq, &visitor)),
            value => value.deserialize_any(visitor),
        }
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Misfit> {
        match self {
            Self::Text(text) => visitor.visit_enum(text.into_deserializer()),
            value => value.deserialize_any(visitor),
        }
    }

    forward_to_deserialize_any! {
        bool i8 i16 i32 i64 i128 u8 u16 u32 u64 u128 f32 f64 char str string bytes byte_buf unit
        unit_struct newtype_struct seq tuple_struct map identifier ignored_any
    }
}

impl IntoDeserializer<'_, Misfit> for Value {
    type Deserializer = Self;

    fn into_deserializer(self) -> Self {
        self
    }
}

/// The items of a list.
struct Items {
    all: std::vec::IntoIter<Value>,
    index: usize,
}

impl<'de> SeqAccess<'de> for Items {
    type Error = Misfit;

    fn next_element_seed<T: DeserializeSeed<'de>>(
        &mut self,
        seed: T,
    ) -> Result<Option<T::Value>, Misfit> {
        let Some(value) = self.all.next() else { return Ok(None) };
        let index = self.index;
        self.index += 1;
        seed.deserialize(value).map(Some).map_err(|misfit| misfit.within(Step::Item(index)))
    }

    fn size_hint(&self) -> Option<usize> {
        Some(self.all.len())
    }
}

/// The entries of a table.
struct Entries {
    all: std::vec::IntoIter<(String, Value)>,
    next: Option<(String, Value)>,
}

impl<'de> MapAccess<'de> for Entries {
    type Error = Misfit;

    fn next_key_seed<K: DeserializeSeed<'de>>(
        &mut self,
        seed: K,
    ) -> Result<Option<K::Value>, Misfit> {
        self.next = self.all.next();
        let Some((key, _)) = &self.next else { return Ok(None) };
        let read = seed.deserialize(key.as_str().into_deserializer());
        let read = read.map_err(|misfit: Misfit| {
            Misfit { at_key: true, ..misfit }.within(Step::Key(key.clone()))
        });
        read.map(Some)
    }

    fn next_value_seed<T: DeserializeSeed<'de>>(&mut self, seed: T) -> Result<T::Value, Misfit> {
        let (key, value) = self.next.take().unwrap_or((String::new(), Value::Nothing));
        seed.deserialize(value).map_err(|misfit| misfit.within(Step::Key(key)))
    }

    fn size_hint(&self) -> Option<usize> {
        Some(self.all.len())
    }
}
