//! From a question to what a witness hears of it.

use std::collections::BTreeSet;

use hazuro::why::{Chain, Notebook, Verdict, Witness};
use hazuro::{EntityId, Entry};

use crate::tape::Tape;

use super::answer::Answer;
use super::because::Because;
use super::heard::{Heard, is_bar};
use super::question::Question;
use super::{advice, senders};

/// Somebody who listens to what is asked about, and to every reaction.
struct Listener {
    notebook: Notebook,
    /// What stopped reactions, in order.
    reactions: Vec<Verdict>,
    /// Who was off, absent or not admitted when it was tried, at any time.
    barred: BTreeSet<Chain>,
}

impl Witness for Listener {
    fn wants(&self, chain: &Chain) -> bool {
        matches!(chain, Chain::Reaction { .. }) || self.notebook.wants(chain)
    }

    fn wants_of(&self, on: EntityId) -> bool {
        self.notebook.wants_of(on)
    }

    fn wants_within(&self, chain: &Chain) -> f64 {
        self.notebook.wants_within(chain)
    }

    fn hear(&mut self, verdict: Verdict) {
        if matches!(verdict.chain, Chain::Reaction { .. }) && !verdict.passed {
            self.reactions.push(verdict.clone());
        }
        if !verdict.passed && is_bar(&verdict) {
            self.barred.insert(verdict.chain);
        }
        self.notebook.hear(verdict);
    }
}

/// What was heard of a question.
pub(super) struct Listened {
    pub answer: Answer,
    /// What stopped each candidate, in the same order.
    pub verdicts: Vec<Option<Verdict>>,
    pub entries: Vec<Entry>,
    /// What stopped reactions, in order.
    pub stopped: Vec<Verdict>,
    /// Whether it takes a press or a click, and nobody ever tried it.
    pub unused: bool,
    /// That nothing waits for it, which is no reason why it did not happen.
    pub unheard: Vec<String>,
}

/// Plays a tape with a witness on what is asked about.
pub(super) fn listen(tape: &Tape, question: &Question) -> Listened {
    let mut play = tape.play_at(question.rate);
    // Of a cue, whatever leads to it counts.
    let about = Notebook::about(question.on, question.who);
    let until = question.until.min(tape.length);
    let notebook = about.within(question.from, until);
    let mut listener = Listener { notebook, reactions: Vec::new(), barred: BTreeSet::new() };
    let entries = play.advance_witnessed(tape.length, &mut listener).to_vec();
    let heard = Heard {
        scene: &tape.scene,
        tape,
        question,
        entries: &entries,
        notebook: &listener.notebook,
        stopped: &listener.reactions,
        barred: &listener.barred,
        because: &Because::new(tape, &entries),
    };
    let (answer, verdicts) = heard.answer();
    let (unused, unheard) = (senders::is_unused(&heard), advice::bound(&heard));
    Listened { answer, verdicts, entries, stopped: listener.reactions, unused, unheard }
}

impl Heard<'_> {
    fn answer(&self) -> (Answer, Vec<Option<Verdict>>) {
        let fired = self.firings();
        let (candidates, verdicts): (Vec<_>, Vec<_>) = self.candidates(&fired).into_iter().unzip();
        let mut notes = senders::notes(self, fired.is_empty());
        notes.extend(advice::often(self, &fired));
        let seconds = self.tape.length.secs();
        let question = self.question.words(self.scene);
        (Answer { question, seconds, fired, candidates, notes }, verdicts)
    }
}
