//! What else decided about an event: who was to send it, and what was refused or never done.

use hazuro::scene::{Action, Detector, EventKind};
use hazuro::why::Chain;
use hazuro::{Entry, Happening, Input};

use crate::words::{describe, done};

use super::heard::Heard;

/// Notes on who could have made it happen. `never` is whether it did not happen at all.
pub(super) fn notes(heard: &Heard<'_>, never: bool) -> Vec<String> {
    let mut notes = Vec::new();
    if never {
        refused(heard, &mut notes);
        unused(heard, &mut notes);
        outlasted(heard, &mut notes);
        unborn(heard, &mut notes);
        other_events(heard, &mut notes);
    }
    notes
}

/// What was refused about the thing asked about.
fn refused(heard: &Heard<'_>, notes: &mut Vec<String>) {
    let Some(on) = heard.question.on else { return };
    for entry in heard.entries {
        let Happening::Refused { time, action, why, .. } = &entry.what else { continue };
        let whose = match action {
            Action::Collect { to, .. } | Action::Grab { to, .. } | Action::Own { to, .. } => {
                Some(*to)
            }
            _ => None,
        };
        let meant = heard.question.who.is_none_or(|who| whose.is_none_or(|whose| whose == who));
        let about = meant && action.target().is_some_and(|(target, _)| *target == on);
        let event = heard.question.event;
        let fits = matches!(
            (event, action),
            (EventKind::Collect, Action::Collect { .. })
                | (EventKind::Grab, Action::Grab { .. })
                | (EventKind::Own, Action::Own { .. } | Action::Grab { .. })
                | (EventKind::Disown, Action::Disown(_))
                | (EventKind::Drop, Action::Drop(_) | Action::Throw(_))
                | (EventKind::Arrive | EventKind::Depart, Action::Teleport(_))
                | (EventKind::Reach | EventKind::Stat | EventKind::Empty | EventKind::Full, _)
        );
        if about && fits {
            let what = describe(heard.scene, action);
            notes.push(format!("at {time} s `{what}` was refused: {}", why.words(heard.scene)));
        }
    }
}

/// Whether it takes a press or a click, and nobody ever tried it.
pub(super) fn is_unused(heard: &Heard<'_>) -> bool {
    let question = heard.question;
    let is_try = |chain: Chain| match chain {
        Chain::Use { on, detector, who } => {
            Some(on) == question.on
                && Some(detector) == question.detector()
                && question.who.is_none_or(|wanted| wanted == who)
        }
        _ => false,
    };
    question.is_use() && !heard.notebook.records().any(|record| is_try(record.chain()))
}

/// That nobody pressed the key, or pointed there.
fn unused(heard: &Heard<'_>, notes: &mut Vec<String>) {
    let question = heard.question;
    let (true, Some(on), Some(detector)) = (is_unused(heard), question.on, question.detector())
    else {
        return;
    };
    let name = heard.scene.name(on);
    let who =
        question.who.map_or("nobody".into(), |who| format!("`{}` never", heard.scene.name(who)));
    notes.push(if detector == Detector::Prompt {
        let key = heard.scene.prompt_of(on).map_or("its key", |prompt| prompt.key.as_str());
        format!("{who} pressed {key}, which `{name}` answers to")
    } else {
        format!("{who} pressed the pointer's button on `{name}`")
    });
    // What was done instead.
    let presses = heard.tape.inputs.iter().filter(|(_, input)| match input {
        Input::Press { who, .. } | Input::Point { who, .. } => {
            question.who.is_none_or(|wanted| wanted == *who)
        }
        _ => false,
    });
    for (time, input) in presses.take(3) {
        notes.push(format!("the tape has instead, at {time} s: {}", done(heard.scene, input)));
    }
}

/// For `inside`: that nobody stayed long enough.
fn outlasted(heard: &Heard<'_>, notes: &mut Vec<String>) {
    let (EventKind::Inside, Some(on)) = (heard.question.event, heard.question.on) else { return };
    notes.push(match heard.scene.inside_every(on) {
        None => format!(
            "`{}` tells no `inside`: give its zone inside_every = seconds",
            heard.scene.name(on)
        ),
        Some(every) => format!("it is told after each {every} s inside; nobody stayed so long"),
    });
}

/// For subjects that cannot be detected by such a detector at all.
fn unborn(heard: &Heard<'_>, notes: &mut Vec<String>) {
    let (Some(who), Some(detector)) = (heard.question.who, heard.question.detector()) else {
        return;
    };
    let (scene, name) = (heard.scene, heard.scene.name(who));
    let lacks = match detector {
        Detector::Prompt | Detector::Pointer if !scene.is_player(who) => Some("player = true"),
        Detector::Pointer if scene.camera_of(who).is_none() => Some("a camera of its own"),
        Detector::Zone | Detector::Sight | Detector::Prompt if !scene.has_body(who) => {
            Some("a body")
        }
        _ => None,
    };
    if let Some(lacks) = lacks {
        notes.push(format!("a {detector} cannot detect `{name}`, which has not got {lacks}"));
    }
}

/// For an event that ends a detection: that it goes on.
fn other_events(heard: &Heard<'_>, notes: &mut Vec<String>) {
    let question = heard.question;
    if !question.event.is_closing() || question.event.is_opening() {
        return;
    }
    let opens = question.event.detector().and_then(Detector::opens);
    let opened = heard.entries.iter().filter_map(Entry::event).find(|event| {
        Some(event.kind) == opens
            && event.on == question.on
            && question.who.is_none_or(|who| event.who == Some(who))
    });
    notes.extend(opened.map(|event| {
        let who = event.who.map_or("somebody", |who| heard.scene.name(who));
        format!("`{who}` has begun to be detected at {} s, and still is at the end", event.time)
    }));
}
