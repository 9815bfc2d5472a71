//! Whether a reaction reacts to an event.

use crate::Time;
use crate::scene::{ReactionId, Scene};
use crate::state::{Event, Moment, State, Wear};
use crate::why::{Chain, Check, Evidence, Gate, Witness, run};

/// The gates of a reaction, in order.
const fn gates<'a>() -> [Check<Consider<'a>>; 4] {
    [
        Check {
            gate: Gate::OnlyOne,
            passes: |look| look.event.edge || !look.scene.wire(look.reaction).only_edge,
            evidence: |look| {
                let zone = look.event.on;
                let detected = zone.zip(look.event.kind.detector());
                let detected = detected.map_or(0, |(on, sort)| look.state.detected(on, sort).len());
                Evidence::Occupants(detected)
            },
        },
        Check {
            gate: Gate::Once,
            passes: |look| !look.scene.reaction(look.reaction).is_once() || look.wear().times == 0,
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Cooldown,
            passes: |look| look.event.time >= look.wear().ready_at,
            evidence: |look| Evidence::ReadyAt(look.wear().ready_at),
        },
        Check {
            gate: Gate::Condition,
            passes: |look| look.condition_holds(),
            evidence: |look| {
                let condition = look.scene.reaction(look.reaction).condition();
                condition
                    .map_or(Evidence::None, |condition| Evidence::Text(condition.text().into()))
            },
        },
    ]
}

/// One reaction considering one event.
pub(crate) struct Consider<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub reaction: ReactionId,
    pub event: &'a Event,
    /// Why the condition could not be tested, if so.
    pub failure: Option<String>,
}

impl Consider<'_> {
    fn wear(&self) -> &Wear {
        &self.state.wear[self.reaction.index()]
    }

    fn condition_holds(&mut self) -> bool {
        let Some(condition) = self.scene.reaction(self.reaction).condition() else {
            return true;
        };
        let (scene, state) = (self.scene, self.state);
        let moment = Moment { scene, state, who: self.event.who, on: self.event.on };
        condition.holds(&moment).unwrap_or_else(|failure| {
            self.failure = Some(failure);
            false
        })
    }
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
    run(&gates, &mut (then, now), chain, time, witness)
}
