//! Whether a reaction reacts to an event.

use crate::Time;
use crate::describe::{Again, Condition, EntityId, Per, ReactionId};
use crate::model::{Scene, Subjects, Wanted};
use crate::state::{Event, Moment, Scope, State, Usage};
use crate::why::{Chain, Check, Evidence, Gate, Witness, asked, go_on, run};

/// The gates of a reaction, in order.
const fn gates<'a>() -> [Check<Consider<'a>>; 6] {
    [
        Check {
            gate: Gate::Subject,
            passes: |look| is_subject(look.wanted, (look.scene, look.state), look.event),
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::OnlyOne,
            passes: |look| look.event.edge || !look.wanted.only_edge,
            evidence: |look| {
                let zone = look.event.on;
                let detected = zone.zip(look.event.kind.detector());
                let all = detected.map(|(on, sort)| look.state.detected(on, sort));
                let mut others: Vec<EntityId> = all.into_iter().flatten().collect();
                others.retain(|other| Some(*other) != look.event.who);
                Evidence::Occupants(others)
            },
        },
        Check {
            gate: Gate::Once,
            passes: |look| {
                let limit = look.scene.reaction(look.reaction).most_times();
                limit.is_none_or(|limit| look.usage().is_none_or(|usage| usage.times < limit))
            },
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Cooldown,
            passes: |look| look.usage().is_none_or(|usage| look.event.time >= usage.ready_at),
            evidence: |look| {
                look.usage().map_or(Evidence::None, |usage| Evidence::ReadyAt(usage.ready_at))
            },
        },
        Check {
            gate: Gate::Idle,
            passes: |look| {
                let ignores = look.scene.reaction(look.reaction).when_again() == Again::Ignore;
                look.busy = ignores && look.state.is_busy(look.scene, look.scope());
                !look.busy
            },
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Condition,
            passes: |look| look.condition_holds(),
            evidence: |look| {
                let condition = look.scene.reaction(look.reaction).condition();
                let moment = moment(look.scene, look.state, look.event);
                condition.map_or(Evidence::None, |condition| asked::condition(condition, &moment))
            },
        },
    ]
}

/// One reaction considering one event.
pub(crate) struct Consider<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub reaction: ReactionId,
    /// Which occurrences it wants.
    pub wanted: Wanted,
    pub event: &'a Event,
    /// Why the condition could not be tested, if so.
    pub failure: Option<String>,
    /// Whether everything but the condition would have let it react.
    pub unmet: bool,
    /// Whether it was still doing what it did before.
    pub busy: bool,
}

impl Consider<'_> {
    fn scope(&self) -> Scope {
        Scope::of(self.scene, self.reaction, self.event)
    }

    /// What the reaction remembers: of this subject or detector if it counts each by itself.
    fn usage(&self) -> Option<&Usage> {
        if self.scene.reaction(self.reaction).counts_per() != Per::All {
            return self.state.runs.reaction_usage.get(&self.scope());
        }
        Some(&self.state.runs.usage[self.reaction.index()])
    }

    fn condition_holds(&mut self) -> bool {
        let Some(condition) = self.scene.reaction(self.reaction).condition() else {
            return true;
        };
        let outcome = holds(condition, self.scene, self.state, self.event);
        self.unmet = outcome == Ok(false);
        outcome.unwrap_or_else(|failure| {
            self.failure = Some(failure);
            false
        })
    }
}

/// Whether the subject of an event is one of those that are waited for, if any are named.
fn is_subject(wanted: Wanted, (scene, state): (&Scene, &State), event: &Event) -> bool {
    let is_one = |subjects: Subjects| {
        event.who.is_some_and(|who| subjects.has(scene, who, state.tags(scene, who)))
    };
    wanted.subjects.is_none_or(is_one)
}

/// Whether an event is one that is wanted of those that are waited for: by its edge, and its subject.
pub(crate) fn is_wanted(wanted: Wanted, play: (&Scene, &State), event: &Event) -> bool {
    (event.edge || !wanted.only_edge) && is_subject(wanted, play, event)
}

/// Runs the gates of a reaction for an event.
pub(crate) fn consider<W: Witness>(look: &mut Consider<'_>, witness: &mut W) -> bool {
    let Event { on, who, time, .. } = *look.event;
    let chain = Chain::Reaction { reaction: look.reaction, on, who };
    run(&gates(), look, chain, time, witness)
}

/// Whether what a `first` or `last` saw is still so when its reaction is due.
pub(crate) fn still_so<W: Witness>(
    (reaction, event): (ReactionId, &Event),
    (then, now): (Option<u64>, Option<u64>),
    time: Time,
    witness: &mut W,
) -> bool {
    let gates = [Check::<(Option<u64>, Option<u64>)> {
        gate: Gate::StillSo,
        passes: |(then, now)| then.is_none() || then == now,
        evidence: |_| Evidence::None,
    }];
    let chain = Chain::Reaction { reaction, on: event.on, who: event.who };
    go_on(&gates, &mut (then, now), chain, time, witness)
}

/// Whether a condition holds of an event now.
///
/// # Errors
/// Why it could not be tested.
pub(crate) fn holds(
    condition: &Condition,
    scene: &Scene,
    state: &State,
    event: &Event,
) -> Result<bool, String> {
    condition.holds(&moment(scene, state, event))
}

fn moment<'a>(scene: &'a Scene, state: &'a State, event: &'a Event) -> Moment<'a> {
    Moment { scene, state, who: event.who, on: event.on, event: Some(event) }
}
