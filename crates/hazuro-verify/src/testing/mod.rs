//! Running a playtest and holding what happened against what was expected.

mod differ;
mod jitter;
mod junit;
mod outcome;
mod watch;

pub use differ::{Difference, differences, differences_of_logs};
pub use jitter::{Fragile, Jittered, jitter};
pub use junit::junit;
pub use outcome::Outcome;
pub use watch::{Changed, Watched};

use std::sync::atomic::{AtomicBool, Ordering};

use hazuro::why::{Coverage, Unwitnessed, Witness};
use hazuro::{By, Entry, Happening, Play, Problem, Scene, Time};

use crate::expect::{Judge, Judged, Seen, Watcher};
use crate::players::Rehearsed;
use crate::playtest::Playtest;
use crate::why::Inquiry;
use crate::words::in_the_way;

/// What a playtest found.
///
/// ```no_run
/// use hazuro_verify::{load, run_playtest};
/// let loaded = load("demo/tidemill/gate.playtest.toml".as_ref()).unwrap();
/// let playtest = loaded.playtest.unwrap();
/// let report = run_playtest(&playtest, None);
/// assert!(report.passed());
/// ```
#[derive(Debug)]
pub struct Report {
    /// Everything that happened, in order.
    pub entries: Vec<Entry>,
    /// The outcome of each expectation, in the order of the file.
    pub outcomes: Vec<Outcome>,
    /// What went wrong in scripts, handlers and conditions while it was played, each once: in
    /// words, with its place and what led there.
    pub failures: Vec<String>,
    /// The walkers that did not reach their goal: which, where, when and why, in words.
    pub halts: Vec<String>,
    /// What went otherwise than at one desk, if players play from elsewhere: who was not let in at once, what
    /// their clients could not do, who was put elsewhere than foreseen, in words.
    pub lines: Vec<String>,
    /// How each value that was watched changed, in order of time.
    pub changed: Vec<Changed>,
    /// When it was stopped, if it was not played to its end: the outcomes are of what happened until
    /// then.
    pub cut_short: Option<Time>,
}

impl Report {
    /// Whether it was played to its end, every expectation was met, and nothing went wrong.
    pub fn passed(&self) -> bool {
        let met = self.outcomes.iter().all(|outcome| outcome.met);
        self.cut_short.is_none() && met && self.failures.is_empty()
    }
}

/// How a playtest is run.
///
/// ```
/// use hazuro_verify::Run;
/// let fast = Run { rate: Some(240), ..Run::default() };
/// ```
#[derive(Debug, Default)]
pub struct Run<'a> {
    /// Ticks a second, if not the scene's.
    pub rate: Option<u32>,
    /// Starts a little elsewhere and acts a little earlier or later, and those who play from elsewhere have
    /// other luck with their lines, by chance from this seed.
    pub seed: Option<u64>,
    /// Values to watch.
    pub watched: &'a [Watched],
    /// Notes what has been tried.
    pub coverage: Option<&'a mut Coverage>,
    /// Leaves out why an expectation was not met.
    pub quick: bool,
    /// Stops as soon as this is raised.
    pub stop: Option<&'a AtomicBool>,
}

/// Plays a playtest to its end, at its scene's rate or another, and judges it.
pub fn run_playtest(playtest: &Playtest, rate: Option<u32>) -> Report {
    run_playtest_as(playtest, Run { rate, ..Run::default() })
}

/// Plays a playtest to its end in some way and judges it.
pub fn run_playtest_as(playtest: &Playtest, run: Run<'_>) -> Report {
    let otherwise = run.seed.map(|seed| jitter::otherwise(playtest, seed));
    let (mut play, otherwise) = match otherwise {
        Some((play, rehearsed)) => (play, rehearsed),
        None => (playtest.play(), None),
    };
    let rehearsed = otherwise.as_ref().or_else(|| playtest.rehearsed());
    if let Some(rate) = run.rate {
        // Whoever asks has checked it.
        let _ = play.set_rate(rate);
    }
    let seen = if let Some(coverage) = run.coverage {
        let seen = play_through(playtest, &mut play, (run.watched, run.stop), coverage);
        coverage.note(play.scene(), &seen.entries);
        seen
    } else {
        play_through(playtest, &mut play, (run.watched, run.stop), &mut Unwitnessed)
    };
    // Of what was not played to its end it cannot be said why it did not happen.
    let explains = !run.quick && run.seed.is_none() && seen.cut_short.is_none();
    let inquiry = Inquiry::new(playtest.heard(), &seen.entries, run.rate);
    let (entries, length) = (&seen.entries[..], playtest.length());
    let told = rehearsed.map_or(&[][..], |it| &it.told);
    let judge = Judge { entries, inquiry: &inquiry, length, told, seen_by: None, explains };
    let outcomes = outcomes(playtest, &judge, &seen.moments, rehearsed);
    let lines = rehearsed.map_or_else(Vec::new, |it| it.lines.clone());
    let halts = seen.entries.iter().filter_map(|entry| halt(playtest.scene(), entry)).collect();
    let failures = failures(&inquiry);
    let Played { entries, changed, cut_short, .. } = seen;
    Report { entries, outcomes, failures, halts, lines, changed, cut_short }
}

/// Whether each expectation was met, in their order. `moments` is what was seen in the play itself.
fn outcomes(
    playtest: &Playtest,
    judge: &Judge<'_>,
    moments: &[Option<Seen>],
    rehearsed: Option<&Rehearsed>,
) -> Vec<Outcome> {
    let all = playtest.expectations.iter().zip(moments).enumerate();
    let judged = all.map(|(index, (expectation, moment))| {
        let by_player = rehearsed.filter(|_| expectation.seen_by.is_some());
        let moment = by_player.map_or(moment, |it| &it.moments[index]);
        let Judged { met, expected, seen, why } = expectation.judge(judge, moment.as_ref());
        let line = playtest.source().line_and_column(expectation.span.start).0;
        Outcome { met, expected, seen, why, line }
    });
    judged.collect()
}

/// What went wrong, each once.
fn failures(inquiry: &Inquiry<'_>) -> Vec<String> {
    let mut seen: Vec<(By, &Problem)> = Vec::new();
    let mut failures = Vec::new();
    for entry in inquiry.entries {
        let Happening::Problem { by, problem, .. } = &entry.what else { continue };
        if !seen.contains(&(*by, problem)) {
            seen.push((*by, problem));
            failures.push(inquiry.failure(entry));
        }
    }
    failures
}

/// That somebody gets no further, and why, in words.
fn halt(scene: &Scene, entry: &Entry) -> Option<String> {
    let Happening::Halted { time, who, by, goal } = &entry.what else { return None };
    let place = goal.to_array().map(|along| (along * 100.0).round() / 100.0 + 0.0);
    let by = in_the_way(scene, *by);
    Some(format!("{} cannot get to {place:?} at {time} s: {by}", scene.name(*who)))
}

/// Plays until `until`, or until `stop` is raised, watching values: what happened, and how they
/// changed.
pub fn play_watching(
    play: &mut Play,
    until: Time,
    watched: &[Watched],
    stop: &AtomicBool,
) -> (Vec<Entry>, Vec<Changed>) {
    let mut entries = Vec::new();
    let mut watching = watch::Watching::new(watched, play);
    advance(play, until, (&mut watching, Some(stop)), &mut Unwitnessed, &mut entries);
    (entries, watching.changed)
}

/// How much is played before it is looked whether to stop.
const SLICE: Time = Time::from_nanos(100_000_000);

/// Plays until `until`, or until it is to stop.
fn advance<W: Witness>(
    play: &mut Play,
    until: Time,
    (watching, stop): (&mut watch::Watching<'_>, Option<&AtomicBool>),
    witness: &mut W,
    entries: &mut Vec<Entry>,
) {
    let is_to_stop = || stop.is_some_and(|stop| stop.load(Ordering::Relaxed));
    while play.now() < until && !is_to_stop() {
        let next = if stop.is_some() { until.min(play.now() + SLICE) } else { until };
        if watching.is_empty() {
            entries.extend_from_slice(play.advance_witnessed(next, witness));
        } else {
            watching.advance(play, next, witness, entries);
        }
    }
}

/// What a play gave.
struct Played {
    entries: Vec<Entry>,
    /// Of each expectation that is about a moment: what was seen then.
    moments: Vec<Option<Seen>>,
    changed: Vec<Changed>,
    cut_short: Option<Time>,
}

/// Plays to the end.
fn play_through<W: Witness>(
    playtest: &Playtest,
    play: &mut Play,
    (watched, stop): (&[Watched], Option<&AtomicBool>),
    witness: &mut W,
) -> Played {
    let mut moments: Vec<(Time, Option<usize>)> = Vec::new();
    for (index, expectation) in playtest.expectations.iter().enumerate() {
        moments.extend(expectation.what.moment().map(|at| (at, Some(index))));
    }
    moments.sort_unstable();
    moments.push((playtest.length(), None));
    let mut watching = watch::Watching::new(watched, play);
    let mut played = Played {
        entries: Vec::new(),
        moments: vec![None; playtest.expectations.len()],
        changed: Vec::new(),
        cut_short: None,
    };
    for (time, index) in moments {
        advance(play, time, (&mut watching, stop), witness, &mut played.entries);
        if play.now() < time {
            played.cut_short = Some(play.now());
            break;
        }
        if let Some(index) = index {
            played.moments[index] = playtest.expectations[index].what.look(&Watcher::of_play(play));
        }
    }
    played.changed = watching.changed;
    played
}
