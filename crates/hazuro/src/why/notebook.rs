//! A witness that keeps, for each chain, how far it ever got.

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::fast_hash::FastMap;

use super::{Chain, Evidence, Gate, Verdict, Witness};

/// Keeps, for each detector and subject and each reaction, the best run of its chain: the one
/// that got farthest, and of those the nearest miss.
///
/// See [`Verdict`] for an example.
#[derive(Clone, Debug, Default)]
pub struct Notebook {
    wanted: Option<(Option<EntityId>, Option<EntityId>)>,
    /// Only what is tried within this span counts.
    span: Option<(Time, Time)>,
    records: FastMap<Chain, Record>,
}

/// What was heard of one chain.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, why::{Gate, Notebook}};
/// use hazuro::scene::{Body, Entity, Zone};
/// let cube = Shape::Box { size: [1.0; 3] };
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").at([3.0, 0.0, 0.0]).body(Body::new(cube.clone())))
///     .entity(Entity::new("slot").zone(Zone::new(cube)))
///     .build()?;
/// let mut play = Play::new(scene);
/// let mut notebook = Notebook::all();
/// play.advance_witnessed(Time::from_secs(0.1), &mut notebook);
/// let record = notebook.records().next().unwrap();
/// let gates: Vec<Gate> = record.run().iter().map(|verdict| verdict.gate).collect();
/// assert_eq!(gates.last(), Some(&Gate::InShape));
/// assert!(record.passed().is_empty());
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug)]
pub struct Record {
    chain: Chain,
    /// The run being heard.
    current: Vec<Verdict>,
    best: Vec<Verdict>,
    passed: Vec<Time>,
}

impl Record {
    /// Whose chain.
    pub fn chain(&self) -> Chain {
        self.chain
    }

    /// The gates of the best run, in order: each that passed, and the first that did not.
    pub fn run(&self) -> &[Verdict] {
        &self.best
    }

    /// The gates of the latest run, in order: each that passed, and the first that did not.
    pub fn latest(&self) -> &[Verdict] {
        &self.current
    }

    /// The gate that stopped the best run; none if it passed them all.
    pub fn stopped(&self) -> Option<&Verdict> {
        self.best.last().filter(|last| !last.passed)
    }

    /// The gates of the best run, each once: one that is asked again further on stands there. How hard
    /// something hits is asked of touches only.
    pub fn gates(&self) -> Vec<&Verdict> {
        let hits = matches!(self.chain, Chain::Detector { detector: Detector::Touch, .. });
        let mut gates: Vec<&Verdict> = Vec::new();
        for verdict in &self.best {
            gates.retain(|known| known.gate != verdict.gate);
            if hits || verdict.gate != Gate::Hard {
                gates.push(verdict);
            }
        }
        gates
    }

    /// Each time at which all gates passed.
    pub fn passed(&self) -> &[Time] {
        &self.passed
    }

    fn hear(&mut self, verdict: Verdict) {
        // What goes on without its beginning having been heard stands by itself.
        let broken = self.current.last().is_none_or(|last| !last.passed);
        if verdict.begins || broken {
            self.current.clear();
        }
        if verdict.ends && verdict.passed {
            self.passed.push(verdict.time);
        }
        self.current.push(verdict);
        if rank(&self.current) > rank(&self.best) {
            self.best.clone_from(&self.current);
        }
    }
}

/// How far a run got, whether it was stopped there or only not heard to its end, and how near it
/// was to getting farther.
fn rank(run: &[Verdict]) -> (usize, bool, f64) {
    let passed = run.iter().filter(|verdict| verdict.passed).count();
    let nearness = run.last().map_or(f64::NEG_INFINITY, |last| match last.evidence {
        _ if last.passed => 0.0,
        Evidence::Gap { metres, .. } => -metres,
        Evidence::Range { got, .. } | Evidence::Angle { got, .. } => -got,
        Evidence::Speed { got, .. } | Evidence::Share { got, .. } | Evidence::Span { got, .. } => {
            got
        }
        _ => 0.0,
    });
    (passed, run.last().is_some_and(|last| !last.passed), nearness)
}

impl Notebook {
    /// Listens to everything.
    pub fn all() -> Self {
        Self::default()
    }

    /// Listens to one detector, one subject, or one pair; `None` stands for any.
    pub fn about(on: Option<EntityId>, who: Option<EntityId>) -> Self {
        Self { wanted: Some((on, who)), ..Self::default() }
    }

    /// Counts only what is tried from one time to another.
    #[must_use]
    pub fn within(self, from: Time, until: Time) -> Self {
        Self { span: Some((from, until)), ..self }
    }

    /// The gate that stopped `on` from detecting `who` in its best run; none if it fired, or was
    /// never tried.
    pub fn stopped(&self, on: EntityId, who: EntityId) -> Option<&Verdict> {
        let about = |record: &&Record| matches!(record.chain, Chain::Detector { on: its, who: of, .. } if its == on && of == who);
        self.records().filter(about).find_map(Record::stopped)
    }

    /// What was heard of each chain, in order.
    pub fn records(&self) -> impl Iterator<Item = &Record> {
        self.records_where(|_| true).into_iter()
    }

    /// What was heard of some chains, in order: they are hashed, so that it is made when asked for.
    pub(super) fn records_where(&self, wanted: impl Fn(Chain) -> bool) -> Vec<&Record> {
        let mut all: Vec<&Record> =
            self.records.values().filter(|record| wanted(record.chain)).collect();
        all.sort_unstable_by_key(|record| record.chain);
        all
    }

    /// What was heard of one chain.
    pub fn record(&self, chain: &Chain) -> Option<&Record> {
        self.records.get(chain)
    }
}

impl Witness for Notebook {
    fn wants(&self, chain: &Chain) -> bool {
        let Some((wanted_on, wanted_who)) = self.wanted else {
            return true;
        };
        let (on, who) = chain.pair();
        let fits = |wanted: Option<EntityId>, given| wanted.is_none() || wanted == given;
        fits(wanted_on, on) && fits(wanted_who, who)
    }

    fn wants_of(&self, on: EntityId) -> bool {
        self.wanted.is_none_or(|(wanted, _)| wanted.is_none_or(|wanted| wanted == on))
    }

    fn wants_within(&self, chain: &Chain) -> f64 {
        // Only what got nearer, or no farther than through the first gates, is worth another look.
        let Some(best) = self.records.get(chain).and_then(|record| record.best.last()) else {
            return f64::INFINITY;
        };
        match (best.gate, &best.evidence) {
            (Gate::Enabled | Gate::Present | Gate::Apart | Gate::Admitted, _) => f64::INFINITY,
            (Gate::InShape | Gate::Touches, Evidence::Gap { metres, .. }) => *metres,
            _ => 0.0,
        }
    }

    fn hear(&mut self, verdict: Verdict) {
        if self.span.is_some_and(|(from, until)| verdict.time < from || verdict.time > until) {
            return;
        }
        let chain = verdict.chain;
        let fresh = || Record { chain, current: Vec::new(), best: Vec::new(), passed: Vec::new() };
        self.records.entry(chain).or_insert_with(fresh).hear(verdict);
    }
}
