//! A prompt that must be offered to somebody at a moment, or must not.

use hazuro::scene::{Detector, EventKind};
use hazuro::{EntityId, Time};
use hazuro_format::Code;

use super::judge::{Judge, Judged, not};
use super::read::Reading;
use super::{Expect, Watcher};
use crate::why::Question;

/// A prompt must be offered, or must not.
#[derive(Debug)]
pub(crate) struct Offered {
    prompt: EntityId,
    who: EntityId,
    is: bool,
    at: Time,
}

impl Expect for Offered {
    type Seen = bool;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let name = reading.keys.offered.as_ref()?;
        let prompt = reading.entity(name, "offered")?;
        if !reading.reader.scene.has(prompt, Detector::Prompt) {
            let message = format!("`{name}` has no prompt, so it is never offered");
            reading.error("offered", Code::NoDetector, &message, "give it a `prompt`");
        }
        let (who, is) = (reading.who()?, reading.whether());
        Some(Self { prompt, who, is, at: reading.moment() })
    }

    fn moment(&self) -> Option<Time> {
        Some(self.at)
    }

    fn look(&self, watcher: &Watcher<'_>) -> Option<bool> {
        let offers = watcher.play.offers(self.who).ok()?;
        Some(offers.iter().any(|offer| offer.prompt == self.prompt))
    }

    fn judge(&self, judge: &Judge<'_>, seen: Option<&bool>) -> Judged {
        let Self { prompt, who, is, at } = *self;
        let [prompt_name, who_name] = [prompt, who].map(|it| judge.scene().name(it));
        let expected =
            format!("{prompt_name} is {}offered to {who_name} at {} s", not(is), at.secs());
        let Some(was) = seen.copied() else {
            return judge.unseen(expected);
        };
        let why = judge.unless(was == is, || {
            if was {
                return judge.inquiry.still_offered(prompt, who, at);
            }
            let about = Question::about(EventKind::Offer, prompt);
            judge.inquiry.missing_now(&Question { who: Some(who), until: at, ..about })
        });
        Judged { met: was == is, expected, seen: format!("it is {}offered", not(was)), why }
    }
}
