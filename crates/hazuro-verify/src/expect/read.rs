//! What reading expectations of all sorts has in common.

use hazuro::scene::Field;
use hazuro::{EntityId, Time};
use hazuro_format::{Code, Literal};

use super::often::{Often, Span};
use super::{ExpectKeys, Sort};
use crate::tape::Reader;

/// Reads one expectation.
pub(crate) struct Reading<'r, 'a> {
    pub reader: &'r mut Reader<'a>,
    pub keys: &'r ExpectKeys,
    pub field: &'r Field,
    /// When the play is over.
    pub end: Time,
}

impl Reading<'_, '_> {
    /// Looks for keys that do not go with a sort of expectation.
    pub fn strays(&mut self, sort: Sort) {
        for (key, with) in self.keys.strays(sort) {
            let help = match (sort, key) {
                (Sort::Happens | Sort::Said | Sort::Kept, "at") => "here use after, by or between",
                (Sort::Gives, _) => "a value takes `is` and `at`",
                _ => "take it away",
            };
            self.reader.stray(self.field, (key, &with), help);
        }
    }

    /// That something is wrong with the value of a key.
    pub fn error(&mut self, key: &'static str, code: Code, message: &str, help: &str) {
        self.reader.error(&self.field.key(key), code, message, help);
    }

    /// An entity that is named at a key.
    pub fn entity(&mut self, name: &str, key: &'static str) -> Option<EntityId> {
        self.reader.entity(name, &self.field.key(key))
    }

    /// Whom it is about, if that is said. A wrong name is a finding, with which nothing comes of the whole.
    pub fn subject(&mut self) -> Option<EntityId> {
        self.keys.who.as_ref().and_then(|name| self.entity(name, "who"))
    }

    /// Whom it is about, which must be said.
    pub fn who(&mut self) -> Option<EntityId> {
        if self.keys.who.is_none() {
            let message = "the key `who` is missing here";
            self.reader.error(self.field, Code::MissingKey, message, "say who it is about");
        }
        self.subject()
    }

    /// Whether, for what is or is not.
    pub fn whether(&mut self) -> bool {
        match &self.keys.is {
            None => true,
            Some(Literal::Flag(is)) => *is,
            Some(_) => {
                let message = "this is neither true nor false";
                self.error("is", Code::BadValue, message, "say is = true or is = false");
                true
            }
        }
    }

    /// When it is looked at.
    pub fn moment(&mut self) -> Time {
        let field = self.field.key("at");
        let at = self.keys.at.map_or(self.end, |seconds| self.reader.seconds(seconds, &field));
        if at > self.end {
            let message = "the play is over by then";
            self.reader.error(&field, Code::TooLate, message, "play longer: raise `seconds`");
        }
        at
    }

    /// How far something may be off.
    pub fn within(&mut self, default: f64) -> f64 {
        let within = self.keys.within.unwrap_or(default);
        if !(0.0..=1e6).contains(&within) {
            let (message, help) = ("this is no distance", "give a number from 0 to 1000000");
            self.error("within", Code::BadNumber, message, help);
        }
        within
    }

    /// How often it must happen.
    pub fn often(&mut self) -> Option<Often> {
        let keys = self.keys;
        let told = [
            ("never", keys.never == Some(true)),
            ("times", keys.times.is_some()),
            ("at_least", keys.at_least.is_some() || keys.at_most.is_some()),
        ];
        let told: Vec<&str> = told.into_iter().filter(|(_, it)| *it).map(|(key, _)| key).collect();
        if let &[first, second, ..] = told.as_slice() {
            let message = format!("`{first}` and `{second}` both say how often");
            let field = self.field.key(second);
            self.reader.error(&field, Code::TwoCounts, &message, "keep one of them");
            return None;
        }
        let (least, most) = (keys.at_least, keys.at_most);
        if least.zip(most).is_some_and(|(least, most)| least > most) {
            self.error("at_most", Code::BadNumber, "more at least than at most", "swap them");
        }
        Some(match (keys.never, keys.times) {
            (Some(true), _) => Often { least: 0, most: Some(0) },
            (_, Some(times)) => Often { least: times, most: Some(times) },
            _ if least.is_some() || most.is_some() => Often { least: least.unwrap_or(0), most },
            _ => Often::ONCE_OR_MORE,
        })
    }

    /// Not before the one, and not after the other.
    pub fn span(&mut self) -> Span {
        let keys = self.keys;
        if keys.between.is_some() && (keys.after.is_some() || keys.by.is_some()) {
            let message = "`between` says both `after` and `by`";
            self.error("between", Code::TwoSpans, message, "keep one of them");
        }
        let (after, by) = match keys.between {
            Some([after, by]) => (Some(after), Some(by)),
            None => (keys.after, keys.by),
        };
        let named = if keys.between.is_some() { ["between"; 2] } else { ["after", "by"] };
        let [first, last] = named.map(|key| self.field.key(key));
        let after = after.map(|seconds| self.reader.seconds(seconds, &first));
        let by = by.map(|seconds| self.reader.seconds(seconds, &last));
        if after.zip(by).is_some_and(|(after, by)| after > by) {
            let message = "it would have to happen before it may";
            self.reader.error(&last, Code::BadNumber, message, "swap the two times");
        }
        Span { after, by }
    }
}
