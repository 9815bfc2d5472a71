//! Why an event did not come, or not often enough.

use hazuro::scene::{EventKind, Facts};
use hazuro::why::{Gate, Verdict};
use hazuro::{EntityId, Entry, Event, Happening, Time};

use super::aim::Aim;
use super::inquiry::Inquiry;
use super::listen::{Listened, listen};
use super::question::Question;
use crate::words::taking;

impl Inquiry<'_> {
    /// Why a text was not shown by a time, so often too seldom.
    pub(crate) fn text(&self, key: &str, until: Time, missing: usize) -> Vec<String> {
        let fates = self.fates(&Aim::Text(key.into()), until, missing);
        if !fates.is_empty() {
            return fates;
        }
        let is =
            |entry: &&Entry| matches!(&entry.what, Happening::Said { key: its, .. } if its == key);
        let last = self.until(until).iter().rfind(is);
        vec![last.map_or_else(
            || format!("nothing says `{key}` by then"),
            |entry| format!("it was shown last {}", self.because.sentence(entry)),
        )]
    }

    /// What showed a text, in words.
    pub(crate) fn shown(&self, entry: &Entry) -> String {
        format!("it was shown {}", self.because.sentence(entry))
    }

    /// What happened, in words.
    pub(crate) fn told(&self, entry: &Entry) -> String {
        self.because.sentence(entry)
    }

    /// Why nobody was kept from taking something: that they got it, or that nothing would have given it
    /// to them.
    pub(crate) fn taken(&self, what: EntityId, who: Option<EntityId>, until: Time) -> Vec<String> {
        let got = self.until(until).iter().rev().find_map(|entry| {
            let Happening::Did { action, .. } = &entry.what else { return None };
            let (_, to) = taking(action).filter(|(taken, _)| *taken == what)?;
            who.is_none_or(|who| to == who).then_some((entry, to))
        });
        let what = self.name(what);
        let line = match (got, who) {
            (Some((entry, to)), _) => {
                format!("{} got it {}", self.name(to), self.because.sentence(entry))
            }
            (None, Some(who)) => format!("{} did not want to take {what} by then", self.name(who)),
            (None, None) => format!("nobody wanted to take {what} by then"),
        };
        vec![line]
    }

    /// Why an event did not come often enough: `came` times it did, `missing` times it did not.
    pub(crate) fn missing(&self, question: &Question, missing: usize) -> Vec<String> {
        let until = question.until.min(self.tape.length);
        let aim = match (&question.cue, question.on) {
            (Some(cue), _) => Some(Aim::Cue(cue.clone())),
            (None, Some(on)) => Some(Aim::Event { kind: question.event, on }),
            (None, None) => None,
        };
        let mut lines = aim.map_or_else(Vec::new, |aim| self.fates(&aim, until, missing));
        lines.extend(self.refused_by_others(question, until));
        lines.extend(self.gone(question, until));
        lines.extend(self.let_go(question, until));
        if !lines.is_empty() {
            // What was to be done says more than who came near.
            return lines;
        }
        let question = Question { rate: self.rate, ..question.clone() };
        let Listened { answer, verdicts, unused, .. } = listen(self.tape, &question);
        let nearest = answer.nearest();
        let place = nearest.and_then(|it| answer.candidates.iter().position(|c| c == it));
        if answer.fired.is_empty()
            && !unused
            && let (Some(candidate), Some(place)) = (nearest, place)
            && let (Some(miss), Some(verdict)) = (&candidate.miss, &verdicts[place])
        {
            lines.extend(self.in_the_way(verdict, until));
            let more = self.facts_behind(verdict, until);
            lines.push(format!("{} was stopped at {}{more}", candidate.who, miss.quoted()));
            lines.extend(miss.cure.as_ref().map(|cure| format!("cure: {cure}")));
            return lines;
        }
        if !answer.notes.is_empty() {
            lines.push(answer.notes.join("; "));
        }
        lines
    }

    /// Why an offer is not there at a moment: what stopped it last.
    pub(crate) fn missing_now(&self, question: &Question) -> Vec<String> {
        let off = question.on.and_then(|on| self.off_at(on, question.until));
        match off {
            Some(line) => vec![line],
            None => self.missing(question, 1),
        }
    }

    /// That an entity or an ancestor is off at a moment, since when, and by what.
    fn off_at(&self, on: EntityId, at: Time) -> Option<String> {
        let mut play = self.play();
        play.advance(at);
        let facts = play.facts();
        let above: Vec<EntityId> =
            std::iter::successors(Some(on), |it| facts.parent(*it)).collect();
        let off = above.into_iter().rev().find(|it| !facts.is_enabled(*it))?;
        Some(self.off_since(off, at))
    }

    /// What was refused to the tape, a host or a detector.
    fn refused_by_others(&self, question: &Question, until: Time) -> Vec<String> {
        let Some(on) = question.on else { return Vec::new() };
        let aim = Aim::Event { kind: question.event, on };
        let refused = |entry: &&Entry| {
            let others = !matches!(entry.by(), Some(hazuro::By::Reaction(_)));
            let refused = matches!(entry.what, Happening::Refused { .. });
            refused && others && entry.time() >= question.from && self.bears(&aim, entry)
        };
        let last = self.until(until).iter().rfind(refused);
        last.map(|entry| self.because.sentence(entry)).into_iter().collect()
    }

    /// That a pickup was collected by somebody else and is not back.
    fn gone(&self, question: &Question, until: Time) -> Option<String> {
        let on = question.on.filter(|_| question.event == EventKind::Collect)?;
        let event = self.last(until, |event| {
            event.on == Some(on) && matches!(event.kind, EventKind::Collect | EventKind::Respawn)
        })?;
        let taken = event.event().filter(|it| it.kind == EventKind::Collect)?;
        let who = taken.who.filter(|who| question.who != Some(*who))?;
        let (what, who) = (self.name(on), self.name(who));
        let since = self.because.since(event.number);
        Some(format!(
            "`{what}` was collected by {who} at {:#} s and is not back: {since}",
            taken.time
        ))
    }

    /// That a key was held and let go too early.
    fn let_go(&self, question: &Question, until: Time) -> Option<String> {
        if question.event != EventKind::Accept {
            return None;
        }
        let about = |event: &Event, kind| {
            event.kind == kind
                && event.on == question.on
                && (question.who.is_none() || event.who == question.who)
        };
        let cancelled = self.last(until, |event| about(event, EventKind::Cancel))?;
        let began = self.last(cancelled.time(), |event| about(event, EventKind::Hold))?;
        let since = self.because.since(cancelled.number);
        let needs = question.on.and_then(|on| self.scene().prompt_of(on));
        let needs =
            needs.map_or(String::new(), |prompt| format!(", of the {} s it takes", prompt.hold));
        let held = (cancelled.time() - began.time()).secs();
        Some(format!(
            "the hold began at {:#} s and was cancelled at {:#} s, after {held:.3} s{needs}: {since}",
            began.time(),
            cancelled.time()
        ))
    }

    pub(super) fn last(&self, until: Time, is: impl Fn(&Event) -> bool) -> Option<&Entry> {
        self.until(until).iter().rfind(|entry| entry.event().is_some_and(&is))
    }

    /// That whoever was to come there gets no further.
    fn in_the_way(&self, verdict: &Verdict, until: Time) -> Option<String> {
        let near = matches!(verdict.gate, Gate::InShape | Gate::Touches | Gate::InRange);
        let who = verdict.chain.pair().1.filter(|_| near)?;
        let halted =
            |entry: &&Entry| matches!(&entry.what, Happening::Halted { who: it, .. } if *it == who);
        self.until(until).iter().rfind(halted).map(|entry| self.no_further(entry))
    }
}
