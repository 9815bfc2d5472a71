//! Detectors, one file each, each written as its list of gates.

pub(crate) mod footing;
mod limits;
mod pair;
pub(crate) mod pointer;
pub(crate) mod probe;
pub(crate) mod prompt;
mod region;
pub(crate) mod seeker;
pub(crate) mod sight;
mod target;
mod touch;
mod zone;

pub(crate) use limits::{Ruling, rule_on};
pub(crate) use pair::Pair;
pub use probe::ProbeRay;
pub(crate) use region::{Crossing, boundary_distance, members};
pub(crate) use target::{Failed, Failure, Failures};

use smallvec::SmallVec;

use crate::Time;
use crate::describe::{self, Described, Detector, EntityId, Scope};
use crate::model::{Scene, Thing};
use crate::space::Space;
use crate::state::{Awareness, Cause, Meeting, Stand, State, WHOLE};
use crate::why::Witness;

/// What a play has to know of a detector of the list, beside how it is resolved.
pub(crate) trait Detect: Described {
    /// How it comes to know what it detects, for the entity whose it is.
    fn asked(spec: &Self::Spec, owner: &Thing) -> Asked;

    /// Whom it can detect.
    fn scope(&self) -> Scope;

    /// Asks it now; for those asked in rounds. None if the entity has none.
    fn ask<W: Witness>(_: Question<'_>, _: &mut W) -> Option<Answer> {
        None
    }
}

/// How a detector comes to know what it detects.
pub(crate) enum Asked {
    /// What crosses its boundary is found ahead, exactly.
    Ahead,
    /// For each player, who points and presses.
    ByPlayers,
    /// Again and again, at moments of its own.
    Rounds {
        /// The time between two of them; none for each tick of the scene.
        every: Option<Time>,
        /// How far from its entity's origin it may look, in metres.
        reach: f64,
    },
}

/// What a detector is asked.
#[derive(Clone, Copy)]
pub(crate) struct Question<'a> {
    pub space: Space<'a>,
    pub on: EntityId,
    pub cause: Cause,
    /// Where to put what could not be told.
    pub failures: &'a Failures,
}

/// What a detector has found out.
pub(crate) struct Answer {
    pub changes: SmallVec<[Change; 2]>,
    pub learnt: Learnt,
    /// Whether it must be asked again although nothing moves.
    pub unsettled: bool,
}

/// What is to be kept of an answer beside its changes.
pub(crate) enum Learnt {
    Nothing,
    Ray(ProbeRay),
    Stand(Stand),
    Awareness(SmallVec<[(EntityId, Awareness); 4]>),
}

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        /// Asks a detector of an entity; none if it has none or is not asked in rounds.
        pub(crate) fn ask<W: Witness>(
            detector: Detector,
            question: Question<'_>,
            witness: &mut W,
        ) -> Option<Answer> {
            match detector {
                $(Detector::$name => <describe::$name as Detect>::ask(question, witness),)*
                _ => None,
            }
        }

        impl Scene {
            /// Whom a detector of an entity can detect; none if it has no such detector.
            pub fn scope_of(&self, on: EntityId, detector: Detector) -> Option<Scope> {
                match detector {
                    Detector::Zone => self.zone_of(on).map(|_| Scope::BODIES),
                    $(Detector::$name => self.$of(on).map(Detect::scope),)*
                    _ => None,
                }
            }
        }

        /// The detectors of an entity that are asked in rounds: how often, and how far they look.
        pub(crate) fn rounds(thing: &Thing) -> SmallVec<[(Detector, Option<Time>, f64); 4]> {
            let mut rounds = SmallVec::new();
            let Some(senses) = &thing.senses else { return rounds };
            $(if let Some(spec) = &senses.$key
                && let Asked::Rounds { every, reach } = <describe::$name as Detect>::asked(spec, thing)
            {
                rounds.push((Detector::$name, every, reach));
            })*
            rounds
        }
    };
}

crate::for_each_detector!(detectors);

/// Runs the gates of a zone or a touch for a subject from now until `until`. What happens at the very
/// end belongs to the next span.
pub(crate) fn look<W: Witness>(
    space: (&Scene, &State),
    pair: (EntityId, Detector, EntityId),
    until: Time,
    witness: &mut W,
) -> SmallVec<[Crossing; 2]> {
    let gates = if pair.1 == Detector::Zone { zone::gates() } else { touch::gates() };
    region::look(&gates, space, pair, until, witness)
}

/// Whether a detector that is asked in rounds may notice a body that has nothing else. Players are offered
/// what has a prompt and point at what can be pointed at.
pub(crate) fn notices_bodies(detector: Detector) -> bool {
    !matches!(detector, Detector::Prompt | Detector::Pointer)
}

/// Whether a detector that is asked in rounds may notice a body that has nothing but its shape, as
/// it is tagged now: one that it does not admit hides nothing and stands in no way.
pub(crate) fn may_notice(
    (scene, state): (&Scene, &State),
    (on, detector): (EntityId, Detector),
    who: EntityId,
) -> bool {
    if !notices_bodies(detector) {
        return false;
    }
    let bodies = scene.scope_of(on, detector).is_some_and(|scope| scope.among.bodies);
    // A ray ends at the first body it looks for, admitted or not.
    let any = detector == Detector::Probe;
    bodies && (any || Pair { scene, state, on, detector, who }.refusal().is_none())
}

/// A subject begins or ceases to be detected.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Change {
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
    /// Whom the event is about: not always the subject.
    pub about: Option<EntityId>,
    /// Which part, if each is detected for itself; else [`WHOLE`].
    pub by_part: u32,
    pub opens: bool,
    pub cause: Cause,
    /// The part to be told of.
    pub part: Option<usize>,
    pub meeting: Option<Meeting>,
}

impl Change {
    /// A change of a whole subject, with nothing else known of it.
    pub fn of(on: EntityId, detector: Detector, who: EntityId, opens: bool, cause: Cause) -> Self {
        let (part, meeting) = (None, None);
        let about = Some(who);
        Self { on, detector, who, about, by_part: WHOLE, opens, cause, part, meeting }
    }
}
