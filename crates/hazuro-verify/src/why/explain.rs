//! From a question to an answer.

use hazuro::Play;
use hazuro::why::{Chain, Notebook, Verdict, Witness};

use crate::playtest::Playtest;

use super::answer::Answer;
use super::because::Because;
use super::heard::Heard;
use super::question::Question;
use super::{advice, senders};

/// Somebody who listens to what is asked about, and to every reaction.
struct Listener {
    notebook: Notebook,
    /// What stopped reactions, in order.
    reactions: Vec<Verdict>,
}

impl Witness for Listener {
    fn wants(&self, chain: &Chain) -> bool {
        matches!(chain, Chain::Reaction { .. }) || self.notebook.wants(chain)
    }

    fn wants_from(&self, chain: &Chain, metres: f64) -> bool {
        self.notebook.wants_from(chain, metres)
    }

    fn hear(&mut self, verdict: Verdict) {
        if matches!(verdict.chain, Chain::Reaction { .. }) && !verdict.passed {
            self.reactions.push(verdict.clone());
        }
        self.notebook.hear(verdict);
    }
}

/// Plays a playtest with a witness on what is asked about, and answers.
pub fn explain(playtest: &Playtest, question: &Question) -> Answer {
    explain_with(playtest, question, true).0
}

/// As [`explain`], with the verdict that stopped each candidate, in the same order; who would have
/// caused it is left out unless it goes `deep`.
pub(super) fn explain_with(
    playtest: &Playtest,
    question: &Question,
    deep: bool,
) -> (Answer, Vec<Option<Verdict>>) {
    let mut play: Play = playtest.play();
    if let Some(rate) = question.rate {
        // Whoever asks has checked it.
        let _ = play.set_rate(rate);
    }
    // Of a cue, whatever leads to it counts.
    let about = Notebook::about(question.on, question.who);
    let until = question.until.min(playtest.length());
    let notebook = about.within(question.from, until);
    let mut listener = Listener { notebook, reactions: Vec::new() };
    let entries = play.advance_witnessed(playtest.length(), &mut listener).to_vec();
    let heard = Heard {
        scene: playtest.scene(),
        playtest,
        question,
        entries: &entries,
        notebook: &listener.notebook,
        stopped: &listener.reactions,
        because: &Because::new(playtest, &entries),
    };
    heard.answer(deep)
}

impl Heard<'_> {
    fn answer(&self, deep: bool) -> (Answer, Vec<Option<Verdict>>) {
        let fired = self.firings();
        let (candidates, verdicts): (Vec<_>, Vec<_>) = self.candidates(&fired).into_iter().unzip();
        let mut notes = senders::notes(self, fired.is_empty(), deep);
        notes.extend(advice::often(self, &fired));
        notes.extend(advice::bound(self));
        let seconds = self.playtest.length().secs();
        let question = self.question.words(self.scene);
        (Answer { question, seconds, fired, candidates, notes }, verdicts)
    }
}
