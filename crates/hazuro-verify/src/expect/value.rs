//! What an expression must give at a moment.

use hazuro::{EntityId, Time};
use hazuro_format::{Code, Known, Literal};
use hazuro_script::{Expression, Value};

use super::judge::{Judge, Judged};
use super::read::Reading;
use super::{Expect, Watcher};

/// An expression must give this.
#[derive(Debug)]
pub(crate) struct Gives {
    text: String,
    expression: Expression,
    who: Option<EntityId>,
    is: Literal,
    within: f64,
    at: Time,
}

impl Expect for Gives {
    /// What it gave, or why nothing.
    type Seen = Result<Value, String>;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let text = reading.keys.value.clone()?;
        let Some(is) = reading.keys.is.clone() else {
            let message = "the key `is` is missing here";
            reading.reader.error(reading.field, Code::MissingKey, message, "say what the value is");
            return None;
        };
        let (at, within) = (reading.moment(), reading.within(Value::CLOSE));
        if reading.keys.within.is_some() && matches!(is, Literal::Flag(_) | Literal::Text(_)) {
            reading.error("within", Code::NoPartner, "`within` goes with a number", "take it away");
        }
        let who = reading.subject();
        let reader = &mut *reading.reader;
        match Expression::new(&text, &Known::of_scene(reader.scene)) {
            Ok(expression) => Some(Self { text, expression, who, is, within, at }),
            Err(bad) => {
                let (field, spans) = (reading.field.key("value"), reader.spans.as_ref());
                let finding = bad.finding(reader.source, spans, &field, &text);
                reader.findings.push(finding);
                None
            }
        }
    }

    fn moment(&self) -> Option<Time> {
        Some(self.at)
    }

    fn look(&self, watcher: &Watcher<'_>) -> Option<Self::Seen> {
        Some(self.expression.value(&watcher.play.facts_about(self.who).ok()?))
    }

    fn judge(&self, judge: &Judge<'_>, seen: Option<&Self::Seen>) -> Judged {
        let Self { text, who, is, within, at, .. } = self;
        let about = who.map_or(String::new(), |who| format!("{}: ", judge.scene().name(who)));
        let off = if *within == Value::CLOSE { String::new() } else { format!(" within {within}") };
        let expected = format!("{about}{text} is {is}{off} at {} s", at.secs());
        match seen {
            Some(Ok(value)) => {
                let met = value.is_within(is, *within);
                let why = || judge.inquiry.value(text, *who, *at, lacks(value, is));
                let why = judge.unless(met, why);
                let text = value.to_string();
                let seen =
                    if text.is_empty() { "it is \"\"".into() } else { format!("it is {text}") };
                Judged { met, expected, seen, why }
            }
            Some(Err(why)) => Judged::unseen(expected, why),
            None => judge.unseen(expected),
        }
    }
}

/// How often a count that is too small would have had to be raised by one.
fn lacks(value: &Value, is: &Literal) -> Option<usize> {
    match (value, is) {
        (Value::Whole(value), Literal::Whole(is)) if is > value => Some((is - value) as usize),
        (Value::Number(value), Literal::Number(is)) if is > value => Some(1),
        (Value::Flag(false), Literal::Flag(true)) => Some(1),
        _ => None,
    }
}
