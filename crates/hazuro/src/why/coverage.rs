//! What has been tried: which detectors fired, which reactions ran, which actions were done.

use std::collections::BTreeMap;

use crate::describe::{Clause, Detector, EntityId, EventKind, ReactionId};
use crate::fast_hash::FastSet;
use crate::model::Scene;
use crate::record::{By, Entry, Happening, Step};

use super::{Chain, Evidence, Gate, Notebook, Verdict, Witness};

/// What plays of one scene have tried so far. It listens as a [`Witness`] and is told what happened.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, why::{Coverage, Tried}};
/// use hazuro::scene::{Body, Detector, Entity, Zone};
/// let cube = Shape::Box { size: [1.0; 3] };
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(cube.clone())))
///     .entity(Entity::new("slot").zone(Zone::new(cube)))
///     .build()?;
/// let mut play = Play::new(scene);
/// let mut coverage = Coverage::default();
/// let entries = play.advance_witnessed(Time::from_secs(0.1), &mut coverage).to_vec();
/// coverage.note(play.scene(), &entries);
/// let slot = play.scene().find("slot").unwrap();
/// assert!(matches!(coverage.tried(slot, Detector::Zone), Tried::Fired(1)));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Coverage {
    notebook: Notebook,
    fired: BTreeMap<(EntityId, Detector), u64>,
    kinds: BTreeMap<(EntityId, Detector), BTreeMap<String, u64>>,
    events: BTreeMap<(EntityId, EventKind), u64>,
    reactions: BTreeMap<ReactionId, Ran>,
    /// The detectors that somebody has set off.
    settled: FastSet<(EntityId, Detector)>,
    /// The pairs of which the subject can never be admitted.
    refused: FastSet<Chain>,
}

/// How far a detector has been tried.
#[derive(Clone, Debug, PartialEq)]
pub enum Tried {
    /// How often it fired.
    Fired(u64),
    /// Somebody whom it admits was stopped at this gate, and nobody came nearer.
    Nearly(Verdict),
    /// Nobody whom it admits has been near it.
    Never,
}

/// What a reaction has done.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Ran {
    /// How often all its gates passed.
    pub times: u64,
    /// How often its condition held.
    pub held: u64,
    /// How often its condition did not hold.
    pub failed: u64,
    /// Of each of its actions, in the order of [`Reaction::actions`](crate::scene::Reaction::actions):
    /// how often it was done, and how often refused.
    pub actions: Vec<(u64, u64)>,
}

impl Coverage {
    /// Notes what happened in a play of the scene.
    pub fn note(&mut self, scene: &Scene, entries: &[Entry]) {
        for entry in entries {
            match &entry.what {
                Happening::Event(event) => {
                    let (Some(on), Some(detector)) = (event.on, event.kind.detector()) else {
                        continue;
                    };
                    *self.events.entry((on, event.kind)).or_default() += 1;
                    let closes = event.kind.is_closing() && !event.kind.is_opening();
                    if closes || event.kind == EventKind::Respawn {
                        continue;
                    }
                    *self.fired.entry((on, detector)).or_default() += 1;
                    if let Some(who) = event.who {
                        let kind = scene.kinds_of(who).next();
                        let kind = kind.map_or_else(|| scene.name(who), |it| it.name());
                        let kinds = self.kinds.entry((on, detector)).or_default();
                        *kinds.entry(kind.to_owned()).or_default() += 1;
                    }
                }
                Happening::Did { by: By::Reaction(reaction), .. }
                | Happening::Said { by: By::Reaction(reaction), .. } => {
                    self.done(scene, *reaction, entry.step.as_ref(), false);
                }
                Happening::Refused { by: By::Reaction(reaction), .. } => {
                    self.done(scene, *reaction, entry.step.as_ref(), true);
                }
                _ => {}
            }
        }
    }

    /// Counts an action of a reaction; what a script does is none of its own.
    fn done(&mut self, scene: &Scene, reaction: ReactionId, step: Option<&Step>, refused: bool) {
        let Some(Step::Action(step)) = step else { return };
        let count = scene.reaction(reaction).actions().count();
        let ran = self.reactions.entry(reaction).or_default();
        ran.actions.resize(count, (0, 0));
        if let Some(counts) = ran.actions.get_mut(*step) {
            *(if refused { &mut counts.1 } else { &mut counts.0 }) += 1;
        }
    }

    /// How far a detector has been tried.
    pub fn tried(&self, on: EntityId, detector: Detector) -> Tried {
        if let Some(times) = self.fired.get(&(on, detector)) {
            return Tried::Fired(*times);
        }
        let of = |chain: Chain| match chain {
            Chain::Detector { on: its, detector: of, .. } => its == on && of == detector,
            _ => false,
        };
        let admitted = |record: &super::Record| {
            let run = record.run();
            run.iter().any(|verdict| verdict.gate == Gate::Admitted && verdict.passed)
        };
        let near = self.notebook.records_where(of).into_iter().filter(|record| admitted(record));
        let nearest = near.filter_map(|record| Some((record.run().len(), record.stopped()?)));
        let farther = |one: &(usize, &Verdict), other: &(usize, &Verdict)| {
            let miss = |it: &Verdict| it.missing().map_or(f64::INFINITY, |miss| miss.amount().0);
            one.0.cmp(&other.0).then(miss(other.1).total_cmp(&miss(one.1)))
        };
        nearest.max_by(farther).map_or(Tried::Never, |(_, verdict)| Tried::Nearly(verdict.clone()))
    }

    /// By which kinds of subjects a detector was set off, or by whom if they have no kind, and how
    /// often.
    pub fn kinds(&self, on: EntityId, detector: Detector) -> impl Iterator<Item = (&str, u64)> {
        let kinds = self.kinds.get(&(on, detector)).into_iter().flatten();
        kinds.map(|(kind, times)| (kind.as_str(), *times))
    }

    /// How often an event of a detector happened.
    pub fn times(&self, on: EntityId, event: EventKind) -> u64 {
        self.events.get(&(on, event)).copied().unwrap_or_default()
    }

    /// What a reaction has done.
    pub fn ran(&self, scene: &Scene, reaction: ReactionId) -> Ran {
        let mut ran = self.reactions.get(&reaction).cloned().unwrap_or_default();
        ran.actions.resize(scene.reaction(reaction).actions().count(), (0, 0));
        ran
    }
}

impl Witness for Coverage {
    fn wants(&self, chain: &Chain) -> bool {
        match chain {
            Chain::Reaction { .. } => true,
            // How near others came does not matter any more, nor who can never be admitted.
            Chain::Detector { on, detector, .. } => {
                !self.settled.contains(&(*on, *detector)) && !self.refused.contains(chain)
            }
            Chain::Use { .. } => false,
        }
    }

    fn wants_within(&self, chain: &Chain) -> f64 {
        self.notebook.wants_within(chain)
    }

    fn hears_again(&self) -> bool {
        false
    }

    fn hear(&mut self, verdict: Verdict) {
        if let Chain::Detector { on, detector, .. } = verdict.chain {
            if verdict.ends && verdict.passed {
                self.settled.insert((on, detector));
            }
            // Tags may change, and conditions; the rest of a rule is for ever.
            let for_good = matches!(
                verdict.evidence,
                Evidence::Refused(Clause::Layers | Clause::Players | Clause::Kinds | Clause::Names)
            );
            if for_good {
                self.refused.insert(verdict.chain);
            }
        }
        if let (Chain::Reaction { reaction, .. }, Gate::Condition) = (verdict.chain, verdict.gate) {
            let ran = self.reactions.entry(reaction).or_default();
            ran.times += u64::from(verdict.passed);
            if matches!(verdict.evidence, Evidence::Condition { .. }) {
                *(if verdict.passed { &mut ran.held } else { &mut ran.failed }) += 1;
            }
        }
        self.notebook.hear(verdict);
    }
}
