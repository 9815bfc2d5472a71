//! What is suspicious about a playtest.

use std::ops::Range;

use hazuro::scene::{Action, Field, Reaction, Trigger, Wait};
use hazuro::{By, Input, Time};
use hazuro_format::{Code, Edit, Editor, Finding, Severity, Spans};

use crate::expect::{Happens, What};
use crate::playtest::Playtest;

/// Looks for what a playtest does or expects too late, or undoes itself.
pub fn check_playtest(playtest: &Playtest) -> Vec<Finding> {
    let mut findings = Vec::new();
    let end = playtest.length();
    let mut late: Vec<(Time, &Range<usize>, &str)> = Vec::new();
    late.extend(playtest.done.iter().map(|(time, span)| (*time, span, "is done")));
    late.extend(playtest.expectations.iter().filter_map(|expectation| {
        Some((expectation.what.earliest()?, &expectation.span, "may happen"))
    }));
    late.retain(|(time, ..)| *time >= end);
    let longer = late.iter().map(|(time, ..)| *time).max().and_then(|it| play_until(playtest, it));
    for (_, span, what) in late {
        let message = format!("the play is over at {end} s, before this {what}");
        let help = "play longer: raise `seconds`";
        let finding = Finding::new(Severity::Warning, Code::TooLate, message).with_help(help);
        let finding = finding.at(playtest.source(), span.clone());
        findings.push(finding.with_edits(longer.clone().into_iter().collect()));
    }
    findings.extend(never_anyway(playtest));
    findings.extend(two_orders(playtest));
    findings.extend(still_waiting(playtest));
    findings
}

/// What is never to happen to something that cannot do it.
fn never_anyway(playtest: &Playtest) -> Vec<Finding> {
    let scene = playtest.scene();
    let mut findings = Vec::new();
    for expectation in &playtest.expectations {
        let What::Happens(Happens { pattern, often }) = &expectation.what else { continue };
        let (Some(on), event) = (pattern.on, pattern.event) else { continue };
        let lacks = event.detector().filter(|detector| !scene.has(on, *detector));
        let Some(detector) = lacks.filter(|_| often.most == Some(0)) else { continue };
        let name = scene.name(on);
        let message =
            format!("`{name}` has no {detector}, so `{event}` never happens, whatever goes wrong");
        let help = format!("is another one meant? Or give `{name}` {}", detector.noun());
        let finding = Finding::new(Severity::Warning, Code::NeverAnyway, message).with_help(help);
        findings.push(finding.at(playtest.source(), expectation.span.clone()));
    }
    findings
}

/// The edit that lets a playtest play on beyond a time, so that something can come of it.
fn play_until(playtest: &Playtest, time: Time) -> Option<Edit> {
    let spans = Spans::of(playtest.source())?;
    let seconds = time.secs().floor() as i64 + 1;
    Editor::new(playtest.source(), &spans).set(&Field::ROOT, "seconds", &seconds.into())
}

/// Reactions that a cue of the tape is certain to set off, and that still wait at the end.
fn still_waiting(playtest: &Playtest) -> Vec<Finding> {
    let (scene, end) = (playtest.scene(), playtest.length());
    let mut findings = Vec::new();
    for (index, (time, input)) in playtest.written.inputs.iter().enumerate() {
        let Input::Act(Action::Cue { name: cue, .. }) = input else { continue };
        for reaction in scene.reaction_ids() {
            let spec = scene.reaction(reaction);
            let waits_for = |trigger: &Trigger| matches!(trigger, Trigger::Cue(it) if it == cue);
            // What may keep it, or ends it, is not certain.
            let certain = spec.condition().is_none()
                && spec.enders().is_empty()
                && spec.ending().is_none()
                && spec.most_times().is_none()
                && spec.cooldown_seconds() == 0.0;
            if !certain || *time >= end || !spec.triggers().iter().any(waits_for) {
                continue;
            }
            let delay = spec.delay().fixed().unwrap_or(0.0);
            let until = *time + Time::from_secs(delay + longest_wait(spec));
            if until < end {
                continue;
            }
            let by = By::Reaction(reaction).describe(scene);
            let message = format!("the play is over at {end} s, while {by} waits until {until} s");
            let help = "play longer, if it shall do all it does: raise `seconds`";
            let finding = Finding::new(Severity::Hint, Code::EndsWaiting, message).with_help(help);
            let finding = finding.at(playtest.source(), playtest.written.places[index].clone());
            findings.push(finding.with_edits(play_until(playtest, until).into_iter().collect()));
        }
    }
    findings
}

/// How many seconds a reaction is certain to wait before the last of its actions.
fn longest_wait(reaction: &Reaction) -> f64 {
    let waits = |sequence: &Vec<Action>| {
        let last = sequence.iter().rposition(|action| !matches!(action, Action::Wait(_)));
        let before = sequence.iter().take(last.unwrap_or(0));
        before.fold(0.0, |sum, action| match action {
            Action::Wait(Wait::Seconds(seconds)) => sum + seconds.fixed().unwrap_or(0.0),
            _ => sum,
        })
    };
    reaction.sequences().iter().map(waits).fold(0.0, f64::max)
}

/// Orders to go somewhere that another at the same moment undoes.
fn two_orders(playtest: &Playtest) -> Vec<Finding> {
    let goes = |input: &Input| match input {
        Input::Walk { who, .. }
        | Input::WalkStraight { who, .. }
        | Input::WalkAlong { who, .. }
        | Input::Follow { who, .. }
        | Input::Drive { who, .. } => Some(*who),
        _ => None,
    };
    let mut findings = Vec::new();
    for (index, (time, input)) in playtest.written.inputs.iter().enumerate() {
        let Some(who) = goes(input) else { continue };
        let rest =
            playtest.written.inputs[index + 1..].iter().take_while(|(later, _)| later == time);
        if !rest.clone().any(|(_, other)| goes(other) == Some(who)) {
            continue;
        }
        let name = playtest.scene().name(who);
        let message =
            format!("`{name}` is sent elsewhere at the very same moment: only that counts");
        let help = "let it be later, or take one of the two away";
        let finding = Finding::new(Severity::Warning, Code::TwoOrders, message).with_help(help);
        findings.push(finding.at(playtest.source(), playtest.written.places[index].clone()));
    }
    findings
}
