//! How often something must happen, and when.

use hazuro::Time;

/// How often something must happen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Often {
    pub least: usize,
    pub most: Option<usize>,
}

impl Often {
    pub const ONCE_OR_MORE: Self = Self { least: 1, most: None };

    pub fn fits(self, times: usize) -> bool {
        times >= self.least && self.most.is_none_or(|most| times <= most)
    }

    pub fn words(self) -> String {
        match (self.least, self.most) {
            (1, None) => String::new(),
            (least, None) => format!(", at least {least} times"),
            (_, Some(0)) => ", never".into(),
            (1, Some(1)) => ", once".into(),
            (least, Some(most)) if least == most => format!(", {most} times"),
            (0, Some(most)) => format!(", at most {most} times"),
            (least, Some(most)) => format!(", {least} to {most} times"),
        }
    }
}

/// Not before the one, and not after the other, if they are given.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Span {
    pub after: Option<Time>,
    pub by: Option<Time>,
}

impl Span {
    pub fn holds(self, time: Time) -> bool {
        self.after.is_none_or(|after| time >= after) && self.by.is_none_or(|by| time <= by)
    }

    pub fn words(self) -> String {
        let mut words = String::new();
        words.extend(self.after.map(|after| format!(", not before {} s", after.secs())));
        words.extend(self.by.map(|by| format!(", by {} s", by.secs())));
        words
    }
}
