//! From a question to an answer.

use crate::tape::Tape;

use super::aim::Aim;
use super::answer::Answer;
use super::inquiry::Inquiry;
use super::listen::{Listened, listen};
use super::question::Question;

/// Plays a tape with a witness on what is asked about, and answers.
pub fn explain(tape: &Tape, question: &Question) -> Answer {
    let Listened { mut answer, entries, stopped, unheard, .. } = listen(tape, question);
    answer.notes.extend(unheard);
    let Question { event, on, ref cue, until, rate, .. } = *question;
    let aim = match (cue, on) {
        (Some(cue), _) => Aim::Cue(cue.clone()),
        (None, Some(on)) => Aim::Event { kind: event, on },
        (None, None) => return answer,
    };
    if answer.fired.is_empty() {
        // What kept those who would have caused it comes first.
        let inquiry = Inquiry::new(tape, &entries, rate).hearing(&stopped);
        let causes = inquiry.fates(&aim, until.min(tape.length), 1);
        answer.notes.splice(0..0, causes);
    }
    answer
}
