//! What must and must not happen.

use std::ops::Range;

use hazuro::scene::{Detector, EventKind, Fault, Field, Named, StatId, nearest};
use hazuro::{Cause, EntityId, Event, Scene, Target, Time};
use hazuro_format::{Known, Literal};
use hazuro_script::{Expression, Value};

use super::Reader;
use super::file::ExpectKeys;

/// One thing that must or must not happen.
#[derive(Debug)]
pub(crate) struct Expectation {
    /// The bytes of its text.
    pub span: Range<usize>,
    pub what: What,
}

#[derive(Debug)]
pub(crate) enum What {
    Event {
        pattern: Pattern,
        often: Often,
    },
    InOrder(Vec<Pattern>),
    Said {
        key: String,
        /// Who is shown it, alone or with everybody.
        who: Option<EntityId>,
        after: Option<Time>,
        by: Option<Time>,
        often: Often,
    },
    Value {
        text: String,
        expression: Expression,
        who: Option<EntityId>,
        is: Literal,
        within: f64,
        at: Time,
    },
    Place {
        who: EntityId,
        place: Target,
        within: f64,
        at: Time,
    },
    Offered {
        prompt: EntityId,
        who: EntityId,
        is: bool,
        at: Time,
    },
    Visible {
        what: EntityId,
        is: bool,
        at: Time,
    },
}

/// The events that an expectation is about.
#[derive(Clone, Debug)]
pub(crate) struct Pattern {
    pub event: EventKind,
    pub on: Option<EntityId>,
    pub cue: Option<String>,
    pub who: Option<EntityId>,
    pub cause: Option<Cause>,
    pub need: Option<String>,
    pub of: Option<StatId>,
    pub after: Option<Time>,
    pub by: Option<Time>,
}

/// How often an event must happen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Often {
    pub least: usize,
    pub most: Option<usize>,
}

impl What {
    /// From when on it may be met, for events that may not happen earlier.
    pub fn earliest(&self) -> Option<Time> {
        match self {
            Self::Event { pattern, .. } => pattern.after,
            Self::Said { after, .. } => *after,
            Self::InOrder(patterns) => patterns.iter().filter_map(|pattern| pattern.after).max(),
            _ => None,
        }
    }

    /// When it is looked at, for what is looked at at one moment.
    pub fn moment(&self) -> Option<Time> {
        match self {
            Self::Event { .. } | Self::InOrder(_) | Self::Said { .. } => None,
            Self::Value { at, .. }
            | Self::Place { at, .. }
            | Self::Offered { at, .. }
            | Self::Visible { at, .. } => Some(*at),
        }
    }
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

impl Pattern {
    /// Any event of a kind.
    pub fn of(event: EventKind) -> Self {
        let (on, cue, who, cause, need) = (None, None, None, None, None);
        Self { event, on, cue, who, cause, need, of: None, after: None, by: None }
    }

    pub fn matches(&self, event: &Event) -> bool {
        fn fits<T: PartialEq>(wanted: Option<&T>, given: Option<&T>) -> bool {
            wanted.is_none() || wanted == given
        }
        event.kind == self.event
            && fits(self.on.as_ref(), event.on.as_ref())
            && fits(self.cue.as_ref(), event.cue.as_ref())
            && fits(self.who.as_ref(), event.who.as_ref())
            && fits(self.cause.as_ref(), event.cause.as_ref())
            && fits(self.need.as_ref(), event.need.as_ref())
            && fits(self.of.as_ref(), event.reading.map(|reading| reading.stat).as_ref())
            && self.after.is_none_or(|after| event.time >= after)
            && self.by.is_none_or(|by| event.time <= by)
    }

    pub fn words(&self, scene: &Scene) -> String {
        let mut words = self.event.word().to_owned();
        let on = self.on.map(|on| scene.name(on)).or(self.cue.as_deref());
        words.extend(on.map(|on| format!(" {on}")));
        words.extend(self.who.map(|who| format!(": {}", scene.name(who))));
        words.extend(self.cause.map(|cause| format!(" ({cause})")));
        words.extend(self.of.map(|of| format!(", {}", scene.stat_name(of))));
        words.extend(self.need.as_ref().map(|need| format!(", for want of {need}")));
        words.extend(self.after.map(|after| format!(", not before {} s", after.secs())));
        words.extend(self.by.map(|by| format!(", by {} s", by.secs())));
        words
    }
}

impl Reader<'_> {
    pub(super) fn expectation(
        &mut self,
        keys: &ExpectKeys,
        field: &Field,
        end: Time,
    ) -> Option<What> {
        let sorts = [
            ("event", keys.event.is_some()),
            ("in_order", keys.in_order.is_some()),
            ("said", keys.said.is_some()),
            ("value", keys.value.is_some()),
            ("place", keys.place.is_some()),
            ("offered", keys.offered.is_some()),
            ("visible", keys.visible.is_some()),
        ];
        let told: Vec<&str> =
            sorts.into_iter().filter(|(_, there)| *there).map(|(sort, _)| sort).collect();
        let [sort] = told.as_slice() else {
            let message = "an expectation is about one of: event, in_order, said, value, place, \
                           offered, visible";
            let help = "as in { event = \"enter\", on = \"pad\", by = 3.0 } \
                        or { value = \"count.tokens\", is = 4, at = 9.0 }";
            self.error(field, "one-expectation", message, help);
            return None;
        };
        self.partners(keys, sort, field);
        match *sort {
            "event" => {
                let often = self.often(keys, field)?;
                let pattern = self.pattern(keys, field)?;
                Some(What::Event { pattern, often })
            }
            "in_order" => self.in_order(keys, &field.key("in_order")),
            "said" => self.said(keys, field),
            "value" => self.value(keys, field, end),
            "place" => {
                let place = self.place(keys.place.as_ref()?, &field.key("place"))?;
                let within = self.within(keys, field, 0.01);
                let who = self.who(keys, field)?;
                Some(What::Place { who, place, within, at: self.moment(keys, field, end) })
            }
            "offered" => {
                let name = keys.offered.as_ref()?;
                let prompt = self.entity(name, &field.key("offered"))?;
                if !self.scene.has(prompt, Detector::Prompt) {
                    let message = format!("`{name}` has no prompt, so it is never offered");
                    let help = "give it a `prompt`";
                    self.error(&field.key("offered"), "no-detector", &message, help);
                }
                let (who, is) = (self.who(keys, field)?, self.whether(keys, field));
                Some(What::Offered { prompt, who, is, at: self.moment(keys, field, end) })
            }
            _ => {
                let what = self.entity(keys.visible.as_ref()?, &field.key("visible"))?;
                let is = self.whether(keys, field);
                Some(What::Visible { what, is, at: self.moment(keys, field, end) })
            }
        }
    }

    /// Looks for keys that do not go with a sort of expectation.
    fn partners(&mut self, keys: &ExpectKeys, sort: &str, field: &Field) {
        const EVENT: &[&str] = &["event"];
        const TOLD: &[&str] = &["event", "said"];
        const MOMENT: &[&str] = &["value", "place", "offered", "visible"];
        let all: [(&str, bool, &[&str]); 14] = [
            ("on", keys.on.is_some(), EVENT),
            ("who", keys.who.is_some(), &["event", "said", "value", "place", "offered"]),
            ("cause", keys.cause.is_some(), EVENT),
            ("need", keys.need.is_some(), EVENT),
            ("of", keys.of.is_some(), EVENT),
            ("after", keys.after.is_some(), TOLD),
            ("by", keys.by.is_some(), TOLD),
            ("between", keys.between.is_some(), TOLD),
            ("times", keys.times.is_some(), TOLD),
            ("at_least", keys.at_least.is_some(), TOLD),
            ("at_most", keys.at_most.is_some(), TOLD),
            ("never", keys.never.is_some(), TOLD),
            ("is", keys.is.is_some(), &["value", "offered", "visible"]),
            ("at", keys.at.is_some(), MOMENT),
        ];
        let within = ("within", keys.within.is_some(), &["place", "value"][..]);
        for (key, there, with) in all.into_iter().chain([within]) {
            if there && !with.contains(&sort) {
                let message = format!("`{key}` goes with `{}`", with.join("`, `"));
                let help = match (sort, key) {
                    ("event" | "said", "at") => "here use after, by or between",
                    ("value", _) => "a value takes `is` and `at`",
                    _ => "take it away",
                };
                self.error(&field.key(key), "no-partner", &message, help);
            }
        }
    }

    fn who(&mut self, keys: &ExpectKeys, field: &Field) -> Option<EntityId> {
        let Some(name) = &keys.who else {
            self.error(
                field,
                "missing-key",
                "the key `who` is missing here",
                "say who it is about",
            );
            return None;
        };
        self.entity(name, &field.key("who"))
    }

    /// Whether, for what is or is not.
    fn whether(&mut self, keys: &ExpectKeys, field: &Field) -> bool {
        match &keys.is {
            None => true,
            Some(Literal::Flag(is)) => *is,
            Some(_) => {
                let message = "this is neither true nor false";
                self.error(&field.key("is"), "bad-value", message, "say is = true or is = false");
                true
            }
        }
    }

    fn moment(&mut self, keys: &ExpectKeys, field: &Field, end: Time) -> Time {
        let field = field.key("at");
        let at = keys.at.map_or(end, |seconds| self.seconds(seconds, &field));
        if at > end {
            let message = "the play is over by then";
            self.error(&field, "too-late", message, "play longer: raise `seconds`");
        }
        at
    }

    fn often(&mut self, keys: &ExpectKeys, field: &Field) -> Option<Often> {
        let told = [
            ("never", keys.never == Some(true)),
            ("times", keys.times.is_some()),
            ("at_least", keys.at_least.is_some() || keys.at_most.is_some()),
        ];
        let told: Vec<&str> = told.into_iter().filter(|(_, it)| *it).map(|(key, _)| key).collect();
        if let [first, second, ..] = told.as_slice() {
            let message = format!("`{first}` and `{second}` both say how often");
            self.error(&field.key(*second), "two-counts", &message, "keep one of them");
            return None;
        }
        let (least, most) = (keys.at_least, keys.at_most);
        if least.zip(most).is_some_and(|(least, most)| least > most) {
            let message = "more at least than at most";
            self.error(&field.key("at_most"), "bad-number", message, "swap them");
        }
        Some(match (keys.never, keys.times) {
            (Some(true), _) => Often { least: 0, most: Some(0) },
            (_, Some(times)) => Often { least: times, most: Some(times) },
            _ if least.is_some() || most.is_some() => Often { least: least.unwrap_or(0), most },
            _ => Often::ONCE_OR_MORE,
        })
    }

    fn in_order(&mut self, keys: &ExpectKeys, field: &Field) -> Option<What> {
        let all = keys.in_order.as_ref()?;
        if all.len() < 2 {
            let help = "name at least two events";
            self.error(field, "one-expectation", "an order takes several events", help);
        }
        let mut patterns = Vec::new();
        for (index, keys) in all.iter().enumerate() {
            let field = field.item(index);
            let often = [keys.times.is_some(), keys.never.is_some(), keys.at_least.is_some()];
            if keys.event.is_none() || often.contains(&true) || keys.at_most.is_some() {
                let message = "an order consists of events, each of which happens";
                let help = "as in { event = \"enter\", on = \"pad\", who = \"miller\" }";
                self.error(&field, "one-expectation", message, help);
                continue;
            }
            self.partners(keys, "event", &field);
            patterns.extend(self.pattern(keys, &field));
        }
        Some(What::InOrder(patterns))
    }

    /// Not before the one, and not after the other.
    fn times(&mut self, keys: &ExpectKeys, field: &Field) -> (Option<Time>, Option<Time>) {
        if keys.between.is_some() && (keys.after.is_some() || keys.by.is_some()) {
            let message = "`between` says both `after` and `by`";
            self.error(&field.key("between"), "two-spans", message, "keep one of them");
        }
        let (after, by) = match keys.between {
            Some([after, by]) => (Some(after), Some(by)),
            None => (keys.after, keys.by),
        };
        let span = if keys.between.is_some() { ["between"; 2] } else { ["after", "by"] };
        let after = after.map(|seconds| self.seconds(seconds, &field.key(span[0])));
        let by = by.map(|seconds| self.seconds(seconds, &field.key(span[1])));
        if after.zip(by).is_some_and(|(after, by)| after > by) {
            let message = "it would have to happen before it may";
            self.error(&field.key(span[1]), "bad-number", message, "swap the two times");
        }
        (after, by)
    }

    fn said(&mut self, keys: &ExpectKeys, field: &Field) -> Option<What> {
        let key = keys.said.clone()?;
        if !self.scene.texts().contains_key(&key) {
            let nearest = nearest(&key, self.scene.texts().keys().map(String::as_str));
            let fault = Fault::Unknown { what: Named::Text, name: key.clone(), nearest };
            self.fault(&field.key("said"), &fault);
            return None;
        }
        let who = match &keys.who {
            Some(name) => Some(self.entity(name, &field.key("who"))?),
            None => None,
        };
        let often = self.often(keys, field)?;
        let (after, by) = self.times(keys, field);
        Some(What::Said { key, who, after, by, often })
    }

    fn pattern(&mut self, keys: &ExpectKeys, field: &Field) -> Option<Pattern> {
        let event = self.event_kind(keys.event.as_ref()?, &field.key("event"))?;
        let cue = if event == EventKind::Cue { keys.on.clone() } else { None };
        let on = match &keys.on {
            Some(name) if cue.is_none() => {
                let on = self.entity(name, &field.key("on"))?;
                // That something never happens is true of what cannot do it; a check tells that.
                if keys.never != Some(true) {
                    self.detects(on, event, &field.key("on"));
                }
                Some(on)
            }
            _ => None,
        };
        let who = match &keys.who {
            Some(name) => Some(self.entity(name, &field.key("who"))?),
            None => None,
        };
        let cause = match &keys.cause {
            Some(word) => {
                let Some(cause) = Cause::ALL.into_iter().find(|cause| cause.word() == word) else {
                    let nearest = nearest(word, Cause::ALL.map(Cause::word));
                    let fault = Fault::Unknown { what: Named::Cause, name: word.clone(), nearest };
                    self.fault(&field.key("cause"), &fault);
                    return None;
                };
                Some(cause)
            }
            None => None,
        };
        let (after, by) = self.times(keys, field);
        let need = keys.need.clone();
        if need.is_some() && event != EventKind::Refused {
            let message = "`need` goes with `refused`";
            self.error(&field.key("need"), "no-partner", message, "take it away");
        }
        let of = keys.of.as_ref().and_then(|name| {
            let field = field.key("of");
            if event.detector() != Some(Detector::Stats) {
                let message = "`of` goes with `stat`, `empty` and `full`";
                self.error(&field, "no-partner", message, "take it away");
            }
            self.scene.stat_id(name).map_err(|fault| self.fault(&field, &fault)).ok()
        });
        Some(Pattern { event, on, cue, who, cause, need, of, after, by })
    }

    /// The event that a word means.
    pub(super) fn event_kind(&mut self, word: &str, field: &Field) -> Option<EventKind> {
        let kind = EventKind::from_word(word);
        if kind.is_none() {
            let known = EventKind::ALL.iter().map(|kind| kind.word());
            let nearest = nearest(word, known);
            let fault = Fault::Unknown { what: Named::Event, name: word.into(), nearest };
            self.fault(field, &fault);
        }
        kind
    }

    /// Sees to it that an entity has the detector of an event.
    pub(super) fn detects(&mut self, on: EntityId, event: EventKind, field: &Field) {
        if let Some(detector) = event.detector().filter(|sort| !self.scene.has(on, *sort)) {
            let name = self.scene.name(on).into();
            self.fault(field, &Fault::NoDetector { event, detector, name, relative: None });
        }
    }

    /// How far something may be off.
    fn within(&mut self, keys: &ExpectKeys, field: &Field, usual: f64) -> f64 {
        let within = keys.within.unwrap_or(usual);
        if !(0.0..=1e6).contains(&within) {
            let message = "this is no distance";
            self.error(
                &field.key("within"),
                "bad-number",
                message,
                "give a number from 0 to 1000000",
            );
        }
        within
    }

    fn value(&mut self, keys: &ExpectKeys, field: &Field, end: Time) -> Option<What> {
        let text = keys.value.as_ref()?;
        let Some(is) = keys.is.clone() else {
            let message = "the key `is` is missing here";
            self.error(field, "missing-key", message, "say what the value is");
            return None;
        };
        let at = self.moment(keys, field, end);
        let within = self.within(keys, field, Value::CLOSE);
        if keys.within.is_some() && matches!(is, Literal::Flag(_) | Literal::Text(_)) {
            let message = "`within` goes with a number";
            self.error(&field.key("within"), "no-partner", message, "take it away");
        }
        let who = match &keys.who {
            Some(name) => Some(self.entity(name, &field.key("who"))?),
            None => None,
        };
        match Expression::new(text, &Known::of_scene(self.scene)) {
            Ok(expression) => {
                Some(What::Value { text: text.clone(), expression, who, is, within, at })
            }
            Err(bad) => {
                let field = field.key("value");
                let spans = self.spans.as_ref();
                self.findings.push(bad.finding(self.source, spans, &field, text));
                None
            }
        }
    }
}
