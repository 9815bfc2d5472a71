//! The same playtest over and over, each time a little otherwise: what of it is fragile.

use hazuro::geometry::Pose;
use hazuro::glam::DVec3;
use hazuro::{Chance, EntityId, Input, Play, Time};

use super::{Run, run_playtest_as};
use crate::players::Rehearsed;
use crate::playtest::Playtest;
use crate::tape::play_of;

/// How far from its place a body begins at most, along X and Z, in metres.
const METRES: f64 = 0.005;
/// How much earlier or later than told something is done at most, in seconds.
const SECONDS: f64 = 0.005;

/// What came of running a playtest again and again.
#[derive(Clone, Debug)]
pub struct Jittered {
    /// How often it was run.
    pub runs: u64,
    /// The expectations that were met in some runs and missed in others.
    pub fragile: Vec<Fragile>,
}

/// An expectation that a few millimetres or milliseconds decide about.
#[derive(Clone, Debug)]
pub struct Fragile {
    /// What was expected, in words.
    pub expected: String,
    /// The line of the file it stands on, from 1.
    pub line: usize,
    /// In how many runs it was missed.
    pub missed: u64,
    /// The first seed with which it was otherwise than without any.
    pub seed: u64,
    /// What was seen then.
    pub seen: String,
}

/// Runs a playtest `runs` times, with bodies that begin up to 5 mm from their place and with what
/// is done up to 5 ms earlier or later. The same number gives the same result.
///
/// ```no_run
/// use hazuro_verify::{jitter, load};
/// let loaded = load("demo/tidemill/gate.playtest.toml".as_ref()).unwrap();
/// let jittered = jitter(&loaded.playtest.unwrap(), None, 20);
/// assert!(jittered.fragile.is_empty());
/// ```
pub fn jitter(playtest: &Playtest, rate: Option<u32>, runs: u64) -> Jittered {
    let plain = run_playtest_as(playtest, Run { rate, quick: true, ..Run::default() });
    let mut fragile: Vec<Option<Fragile>> = vec![None; plain.outcomes.len()];
    let mut missed = vec![0; plain.outcomes.len()];
    for seed in 1..=runs {
        let run = Run { rate, seed: Some(seed), quick: true, ..Run::default() };
        let report = run_playtest_as(playtest, run);
        for (index, outcome) in report.outcomes.iter().enumerate() {
            missed[index] += u64::from(!outcome.met);
            if outcome.met != plain.outcomes[index].met && fragile[index].is_none() {
                let (expected, line) = (outcome.expected.clone(), outcome.line);
                let seen = outcome.seen.clone();
                fragile[index] = Some(Fragile { expected, line, missed: 0, seed, seen });
            }
        }
    }
    let fragile = fragile.into_iter().zip(missed);
    let fragile = fragile.filter_map(|(it, missed)| Some(Fragile { missed, ..it? })).collect();
    Jittered { runs, fragile }
}

/// A play of a playtest in which all is a little otherwise, and how that goes with those who play from elsewhere.
pub(super) fn otherwise(playtest: &Playtest, seed: u64) -> (Play, Option<Rehearsed>) {
    let chance = &mut Chance::new(seed);
    let written = &playtest.written;
    let mut play = play_of(&written.scene, &written.scripts);
    let aside = aside(&play, chance);
    begin(&mut play, &aside);
    let later = written.with(later(&written.inputs, chance), written.places.clone());
    if !playtest.is_of_several() {
        later.start(&mut play);
        return (play, None);
    }
    let rehearsed = playtest.rehearse(&later, play, seed);
    let mut play = play_of(&written.scene, &written.scripts);
    begin(&mut play, &aside);
    rehearsed.tape.start(&mut play);
    (play, Some(rehearsed))
}

/// Where bodies begin that begin a little aside.
fn aside(play: &Play, chance: &mut Chance) -> Vec<(EntityId, Pose)> {
    let scene = play.scene();
    let mut all = Vec::new();
    for who in scene.described() {
        let aside = DVec3::new(chance.around(METRES), 0.0, chance.around(METRES));
        // What is carried begins with its carrier; what stands on something stays on it.
        if scene.has_body(who)
            && scene.parent(who).is_none()
            && let Ok(pose) = play.pose(who)
        {
            all.push((who, Pose { position: pose.position + aside, ..pose }));
        }
    }
    all
}

fn begin(play: &mut Play, aside: &[(EntityId, Pose)]) {
    for (who, pose) in aside {
        // The scene has it, so it can begin there.
        let _ = play.begin_at(*who, *pose);
    }
}

/// What is done, each a little earlier or later.
fn later(inputs: &[(Time, Input)], chance: &mut Chance) -> Vec<(Time, Input)> {
    let mut last = Time::ZERO;
    let later = inputs.iter().map(|(time, input)| {
        let moved = time.secs() + chance.around(SECONDS);
        // Never before the start, and in the order of the tape.
        let time = if *time == Time::ZERO { *time } else { Time::from_secs(moved.max(0.0)) };
        last = last.max(time);
        (last, input.clone())
    });
    later.collect()
}
