//! From a reaction back to its keys.

use std::collections::BTreeMap;

use hazuro::scene::{Action, Again, Per, Reaction, Trigger};

use crate::action::ActionKeys;
use crate::keys::one_or_many::OneOrMany;
use crate::keys::quantity::QuantityKeys;
use crate::keys::reaction::{ReactionKeys, TriggerKeys};

pub(crate) fn reaction(reaction: &Reaction) -> ReactionKeys {
    let seconds = |seconds: f64| (seconds != 0.0).then_some(seconds);
    let (every, times) = reaction.repetition();
    let triggers = |all: &[Trigger]| OneOrMany::of(all.iter().map(trigger).collect());
    let sequence =
        |actions: &[Action]| actions.iter().cloned().map(ActionKeys::of).collect::<Vec<_>>();
    let actions = match reaction.sequences() {
        [one] => sequence(one).into_iter().map(OneOrMany::One).collect(),
        many => many.iter().map(|one| OneOrMany::Many(sequence(one))).collect(),
    };
    let (again, per) = (reaction.when_again(), reaction.counts_per());
    ReactionKeys {
        name: reaction.name().map(Into::into),
        allow: BTreeMap::new(),
        on: triggers(reaction.triggers()),
        instead_of: reaction.replaces().map(Into::into),
        order: (reaction.place() != 0).then(|| reaction.place()),
        condition: reaction.condition().map(|condition| condition.text().into()),
        after: QuantityKeys::given(reaction.delay(), |it| it),
        every: every.map(|every| QuantityKeys::of(every, |it| it)),
        times,
        until: (!reaction.enders().is_empty()).then(|| triggers(reaction.enders())),
        until_if: reaction.ending().map(|condition| condition.text().into()),
        once: None,
        limit: reaction.most_times(),
        cooldown: seconds(reaction.cooldown_seconds()),
        per: (per != Per::default()).then(|| per.word().into()),
        again: (again != Again::default()).then(|| again.word().into()),
        pass_on: reaction.passes_on().then_some(true),
        actions,
        otherwise: sequence(reaction.alternative()),
    }
}

fn trigger(trigger: &Trigger) -> TriggerKeys {
    let none = TriggerKeys::default();
    match trigger {
        Trigger::Start => TriggerKeys { start: Some(true), ..none },
        Trigger::Detected { event, on, edge, of, who } => {
            let first = (*edge && event.is_opening()).then_some(true);
            let last = (*edge && !event.is_opening()).then_some(true);
            let who = who.as_ref().map(|who| who.to_string().into());
            let mut keys = TriggerKeys { first, last, of: of.clone(), who, ..none };
            if let Some(key) = keys.event_mut(*event) {
                *key = Some(on.to_string().into());
            }
            keys
        }
        Trigger::Cue(name) => TriggerKeys { cue: Some(name.clone()), ..none },
    }
}
