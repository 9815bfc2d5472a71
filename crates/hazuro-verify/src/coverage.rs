//! What playtests have tried of a scene, as a table.

use hazuro::scene::{Action, Detector};
use hazuro::why::{Coverage, Tried};
use hazuro::{By, EntityId, Scene};
use serde::Serialize;

use crate::why::Miss;

/// What playtests have tried of a scene.
///
/// ```
/// use hazuro::why::Coverage;
/// use hazuro_format::Source;
/// use hazuro_script::read_scene;
/// use hazuro_verify::CoverageTable;
/// let scene = read_scene(&Source::new("yard.toml", r#"
/// [[entity]]
/// name = "pad"
/// zone = { box = [1, 1, 1] }
/// "#)).unwrap();
/// let table = CoverageTable::of(&scene, &Coverage::default());
/// assert_eq!((table.total.detectors.done, table.total.detectors.all), (0, 1));
/// ```
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct CoverageTable {
    /// The scene's name.
    pub scene: String,
    /// Each detector, in the scene's order.
    pub detectors: Vec<DetectorRow>,
    /// Each reaction, in the scene's order.
    pub reactions: Vec<ReactionRow>,
    /// All in one.
    pub total: Total,
}

/// What has been tried of a detector.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct DetectorRow {
    /// Its entity.
    pub on: String,
    /// Which of its detectors.
    pub detector: &'static str,
    /// How often it fired.
    pub fired: u64,
    /// By which kinds of subjects, or by whom if they have none, and how often.
    pub by: Vec<(String, u64)>,
    /// If it never fired and an admitted subject came near: what stopped it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub nearly: Option<Miss>,
}

/// What has been tried of a reaction.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ReactionRow {
    /// The reaction, in words.
    pub reaction: String,
    /// How often it ran.
    pub ran: u64,
    /// How often its condition held and did not hold, if it has one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub condition: Option<(u64, u64)>,
    /// Its actions: each one's word, and how often it was done and refused.
    pub actions: Vec<(&'static str, u64, u64)>,
}

/// How many of all.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Share {
    /// So many have been tried.
    pub done: usize,
    /// The total.
    pub all: usize,
}

/// How much of a scene has been tried.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Total {
    /// Detectors that fired.
    pub detectors: Share,
    /// Reactions that ran.
    pub reactions: Share,
    /// Conditions that were seen to hold, and not to hold: two for each.
    pub conditions: Share,
    /// Actions that were done.
    pub actions: Share,
}

impl Share {
    fn count(&mut self, done: bool) {
        self.all += 1;
        self.done += usize::from(done);
    }

    fn join(self, other: Self) -> Self {
        Self { done: self.done + other.done, all: self.all + other.all }
    }
}

impl Total {
    /// All that there is to try.
    pub fn sum(&self) -> Share {
        self.detectors.join(self.reactions).join(self.conditions).join(self.actions)
    }
}

/// The detectors of an entity that say something when they fire. What everything has, or has for
/// being counted or looked through, is no detector to be tried.
pub(crate) fn tried_detectors(scene: &Scene, entity: EntityId) -> impl Iterator<Item = Detector> {
    Detector::ALL.into_iter().filter(move |detector| {
        let told = match detector {
            Detector::Stats | Detector::Teleport | Detector::Camera => false,
            Detector::Route => scene.route_of(entity).is_some(),
            _ => true,
        };
        told && scene.has(entity, *detector)
    })
}

impl CoverageTable {
    /// What has been tried of a scene.
    pub fn of(scene: &Scene, coverage: &Coverage) -> Self {
        let mut total = Total::default();
        let mut detectors = Vec::new();
        for entity in scene.described() {
            for detector in tried_detectors(scene, entity) {
                let tried = coverage.tried(entity, detector);
                let fired = if let Tried::Fired(times) = tried { times } else { 0 };
                total.detectors.count(fired > 0);
                let by = coverage.kinds(entity, detector);
                detectors.push(DetectorRow {
                    on: scene.name(entity).into(),
                    detector: detector.word(),
                    fired,
                    by: by.map(|(kind, times)| (kind.to_owned(), times)).collect(),
                    nearly: match &tried {
                        Tried::Nearly(verdict) => Some(Miss::of(scene, verdict)),
                        _ => None,
                    },
                });
            }
        }
        let mut reactions = Vec::new();
        for reaction in scene.reaction_ids() {
            let ran = coverage.ran(scene, reaction);
            let spec = scene.reaction(reaction);
            total.reactions.count(ran.times > 0);
            let condition = spec.condition().map(|_| (ran.held, ran.failed));
            if let Some((held, failed)) = condition {
                total.conditions.count(held > 0);
                total.conditions.count(failed > 0);
            }
            // A wait is nothing done.
            let actions = spec.actions().map(|(.., action)| action).zip(&ran.actions);
            let actions = actions.filter(|(action, _)| !matches!(action, Action::Wait(_)));
            let actions = actions.map(|(action, (done, refused))| {
                total.actions.count(*done > 0);
                (action.word(), *done, *refused)
            });
            let actions = actions.collect();
            let reaction = By::Reaction(reaction).describe(scene);
            reactions.push(ReactionRow { reaction, ran: ran.times, condition, actions });
        }
        Self { scene: scene.title().into(), detectors, reactions, total }
    }
}
