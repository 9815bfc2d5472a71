//! Trying every detector with every sort of subject, without a playtest.

mod combined;
mod findings;
mod presses;
mod seen;
mod spots;
mod subjects;
mod untried;
mod visit;
mod visits;

use std::sync::Arc;

use hazuro::scene::Detector;
use hazuro::{Chance, EntityId, Scene};
use hazuro_format::Source;
use hazuro_script::Scripts;

use crate::coverage::tried_detectors;
use crate::playtest::read_playtest;
use findings::Notes;
pub use findings::Suspicion;
pub use seen::Scouting;
use seen::Seen;
use subjects::Subject;
pub use untried::Untried;
use visit::{Manner, Visit};

/// What scouting has found.
#[derive(Clone, Debug)]
pub struct Scouted {
    /// The sorts of subjects tried, in the scene's order.
    pub subjects: Vec<String>,
    /// Each detector: who can set it off.
    pub rows: Vec<MatrixRow>,
    /// What is suspicious, in the order of the scene.
    pub suspicions: Vec<Suspicion>,
    /// What was not tried, and why.
    pub untried: Vec<Untried>,
    /// How many visits were tried.
    pub visits: usize,
    /// Whether it was stopped before all were tried.
    pub cut_short: bool,
    /// How many seconds were played.
    pub seconds: f64,
}

/// Who can set off one detector.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MatrixRow {
    /// Its entity.
    pub on: String,
    /// Which of its detectors.
    pub detector: &'static str,
    /// For each sort of subject: `yes`, `some` if not each visit did, `no` if it is admitted and
    /// none did, or empty if it is not admitted.
    pub cells: Vec<&'static str>,
}

/// Tries every detector with every sort of subject; `progress` hears how many visits are done, of
/// how many, and says whether to go on. The same seed gives the same result.
pub fn scout(
    scene: &Arc<Scene>,
    scripts: &Scripts,
    scouting: &Scouting,
    progress: &mut dyn FnMut(usize, usize) -> bool,
) -> Scouted {
    let subjects = subjects::of(scene);
    let mut scout = Scout { scene, scripts, scouting, visits: 0, nanos: 0 };
    let mut planned: Vec<Plan> = Vec::new();
    for on in scene.described() {
        for detector in tried_detectors(scene, on).filter(|it| visits::can_try(*it)) {
            planned.push(Plan { on, detector, pairs: scout.plan(on, detector, &subjects) });
        }
    }
    let each = planned.iter().flat_map(|plan| &plan.pairs).map(|(_, _, visits)| visits.len());
    let by_chance = (scouting.minutes * 60.0 / COMBINED).ceil() as usize;
    let mut all = each.sum::<usize>() + by_chance;
    let mut notes = Notes::new(scene, scouting);
    let mut rows = Vec::new();
    // Of each detector and sort of subject, one visit for each event that it sets off.
    let mut plain: Vec<&Visit> = Vec::new();
    let mut goes_on = true;
    for plan in &planned {
        let mut cells = vec![""; subjects.len()];
        for (subject, admitted, visits) in &plan.pairs {
            let mut tried: Vec<(&Visit, Seen)> = Vec::new();
            for visit in visits {
                // Once somebody has got there on foot, one gets there on foot.
                let fired = |(it, seen): &(&Visit, Seen)| it.fired(&seen.entries) > 0;
                let on_foot = visit.manner == Manner::OnFoot;
                if on_foot && tried.iter().any(|it| it.0.manner == Manner::OnFoot && fired(it)) {
                    all -= 1;
                    continue;
                }
                tried.push((visit, scout.run(visit)));
                goes_on = progress(scout.visits, all);
                if !goes_on {
                    break;
                }
            }
            if !goes_on {
                // Not all of its visits were tried, so nothing is said of it.
                cells[*subject] = "?";
                break;
            }
            let fired = tried.iter().filter(|(visit, it)| visit.fired(&it.entries) > 0);
            let fired: Vec<&Visit> = fired.map(|(visit, _)| *visit).collect();
            let is_first = |(at, it): &(usize, &&Visit)| {
                !fired[..*at].iter().any(|before| before.event == it.event)
            };
            plain.extend(fired.iter().enumerate().filter(is_first).map(|(_, visit)| *visit));
            cells[*subject] = match fired.len() {
                0 if *admitted => "no",
                0 => "",
                some if some < tried.len() => "some",
                _ => "yes",
            };
            notes.pair(&subjects[*subject], *admitted, &tried);
        }
        rows.push(MatrixRow {
            on: scene.name(plan.on).into(),
            detector: plan.detector.word(),
            cells,
        });
        if !goes_on {
            break;
        }
    }
    for (reaction, visit) in if goes_on { notes.idle() } else { Vec::new() } {
        let more = combined::more_of(scene, &visit, &plain);
        all += more.len();
        for visit in more {
            notes.combined(&visit, &scout.run(&visit));
            goes_on = progress(scout.visits, all);
            if !goes_on || notes.has_acted(reaction) {
                break;
            }
        }
        if !goes_on {
            break;
        }
    }
    let mut chance = Chance::new(scouting.seed);
    let pool: Vec<&Visit> =
        planned.iter().flat_map(|plan| &plan.pairs).flat_map(|(.., visits)| visits).collect();
    for _ in 0..if goes_on { by_chance } else { 0 } {
        let Some(visit) = combined::combine(&pool, &mut chance) else { break };
        let seen = scout.run(&visit);
        notes.combined(&visit, &seen);
        goes_on = progress(scout.visits, all);
        if !goes_on {
            break;
        }
    }
    let untried = untried::of(scene, &subjects, &planned);
    let Scout { visits, nanos, .. } = scout;
    Scouted {
        subjects: subjects.into_iter().map(|subject| subject.label).collect(),
        rows,
        suspicions: notes.settle(),
        untried,
        visits,
        cut_short: !goes_on,
        seconds: nanos as f64 / 1e9,
    }
}

/// About how many seconds a combination of visits takes.
const COMBINED: f64 = 8.0;

/// The visits to one detector: by which subject, whether it is admitted, and how it comes.
struct Plan {
    on: EntityId,
    detector: Detector,
    pairs: Vec<(usize, bool, Vec<Visit>)>,
}

impl Plan {
    /// Whether it is for a detector that nobody visits.
    fn is_empty_of(&self, (on, detector): (EntityId, Detector)) -> bool {
        self.on == on && self.detector == detector && self.pairs.is_empty()
    }
}

struct Scout<'a> {
    scene: &'a Arc<Scene>,
    scripts: &'a Scripts,
    scouting: &'a Scouting,
    visits: usize,
    nanos: i64,
}

impl Scout<'_> {
    fn plan(
        &self,
        on: EntityId,
        detector: Detector,
        subjects: &[Subject],
    ) -> Vec<(usize, bool, Vec<Visit>)> {
        let mut pairs = Vec::new();
        for (index, subject) in subjects.iter().enumerate() {
            if !visits::suits(self.scene, (on, detector), subject.who) {
                continue;
            }
            let itself = self.scene.scope_of(on, detector).is_some_and(|scope| scope.itself);
            let admitted = itself
                || (self.scene.admits(on, subject.who) && self.scene.are_apart(on, subject.who));
            let mut visits = visits::of(self.scene, self.scripts, (on, detector), subject.who);
            if !admitted {
                visits.truncate(1);
            }
            if !visits.is_empty() {
                pairs.push((index, admitted, visits));
            }
        }
        pairs
    }

    fn run(&mut self, visit: &Visit) -> Seen {
        let text = visit.playtest(&self.scouting.scene, "");
        let source = Source::new("visit.playtest.toml", text);
        let playtest = read_playtest(&source, self.scene.clone())
            .expect("a visit is a playtest of its scene")
            .with_scripts(self.scripts.clone());
        let mut play = playtest.play();
        let entries = play.advance(playtest.length()).to_vec();
        self.visits += 1;
        self.nanos += playtest.length().nanos();
        let detected = play.detected(visit.on, visit.detector).unwrap_or_default();
        Seen { playtest, entries, left_inside: detected.contains(&visit.who) }
    }
}
