//! Which events an expectation is about.

use hazuro::scene::{Detector, EventKind, Fault, Named, StatId, nearest};
use hazuro::{Cause, EntityId, Event, Scene};
use hazuro_format::Code;

use super::often::Span;
use super::read::Reading;
use super::told::Sighting;

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
    pub span: Span,
}

impl Pattern {
    /// Any event of a kind.
    pub fn of(event: EventKind) -> Self {
        let (on, cue, who, cause, need) = (None, None, None, None, None);
        Self { event, on, cue, who, cause, need, of: None, span: Span::default() }
    }

    pub fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let (keys, field) = (reading.keys, reading.field);
        let event = reading.reader.event_kind(keys.event.as_ref()?, &field.key("event"))?;
        let cue = if event == EventKind::Cue { keys.on.clone() } else { None };
        let on = match &keys.on {
            Some(name) if cue.is_none() => {
                let on = reading.entity(name, "on")?;
                // That something never happens is true of what cannot do it; a check tells that.
                if keys.never != Some(true) {
                    reading.reader.detects(on, event, &field.key("on"));
                }
                Some(on)
            }
            _ => None,
        };
        let who = reading.subject();
        let cause = match &keys.cause {
            Some(word) => Some(cause(reading, word)?),
            None => None,
        };
        let span = reading.span();
        let need = keys.need.clone();
        if need.is_some() && event != EventKind::Refused {
            reading.error("need", Code::NoPartner, "`need` goes with `refused`", "take it away");
        }
        let of = keys.of.as_ref().and_then(|name| {
            if event.detector() != Some(Detector::Stats) {
                let message = "`of` goes with `stat`, `empty` and `full`";
                reading.error("of", Code::NoPartner, message, "take it away");
            }
            let stat = reading.reader.scene.stat_id(name);
            stat.map_err(|fault| reading.reader.fault(&field.key("of"), &fault)).ok()
        });
        Some(Self { event, on, cue, who, cause, need, of, span })
    }

    pub fn matches(&self, sighting: Sighting<'_>) -> bool {
        self.is_about(sighting.event) && self.span.holds(sighting.at)
    }

    /// Whether it is about an event, whenever that is.
    pub fn is_about(&self, event: &Event) -> bool {
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
    }

    pub fn words(&self, scene: &Scene) -> String {
        let mut words = self.event.word().to_owned();
        let on = self.on.map(|on| scene.name(on)).or(self.cue.as_deref());
        words.extend(on.map(|on| format!(" {on}")));
        words.extend(self.who.map(|who| format!(": {}", scene.name(who))));
        words.extend(self.cause.map(|cause| format!(" ({cause})")));
        words.extend(self.of.map(|of| format!(", {}", scene.stat_name(of))));
        words.extend(self.need.as_ref().map(|need| format!(", for want of {need}")));
        words + self.span.words().as_str()
    }
}

/// The cause that a word means.
fn cause(reading: &mut Reading<'_, '_>, word: &str) -> Option<Cause> {
    let cause = Cause::ALL.into_iter().find(|cause| cause.word() == word);
    if cause.is_none() {
        let nearest = nearest(word, Cause::ALL.map(Cause::word));
        let fault = Fault::Unknown { what: Named::Cause, name: word.into(), nearest };
        reading.reader.fault(&reading.field.key("cause"), &fault);
    }
    cause
}
