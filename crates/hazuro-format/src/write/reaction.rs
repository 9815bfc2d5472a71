//! From a reaction back to its keys.

use std::collections::BTreeMap;

use hazuro::motion::Easing;
use hazuro::scene::{
    Action, Again, Aim, Change, Choose, Destination, Filling, HEALTH, Lead, Move, Pace, Per,
    Quantity, Reaction, RouteOrder, Switch, Teleport, Throw, Trigger, Turn, Wait,
};

use super::degrees;
use crate::keys::action::{ActionKeys, ByKeys};
use crate::keys::literal::Literal;
use crate::keys::one_or_many::{Names, OneOrMany};
use crate::keys::quantity::QuantityKeys;
use crate::keys::reaction::{ReactionKeys, TriggerKeys};
use crate::table::Table;

pub(crate) fn reaction(reaction: &Reaction) -> ReactionKeys {
    let seconds = |seconds: f64| (seconds != 0.0).then_some(seconds);
    let (every, times) = reaction.repetition();
    let triggers = |all: &[Trigger]| OneOrMany::of(all.iter().map(trigger).collect());
    let sequence = |actions: &[Action]| actions.iter().map(action).collect::<Vec<_>>();
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
        after: given(reaction.delay(), |it| it),
        every: every.map(|every| quantity(every, |it| it)),
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
        Trigger::Detected { event, on, edge, of } => {
            let first = (*edge && event.is_opening()).then_some(true);
            let last = (*edge && !event.is_opening()).then_some(true);
            let mut keys = TriggerKeys { first, last, of: of.clone(), ..none };
            if let Some(key) = keys.event_mut(*event) {
                *key = Some(on.to_string().into());
            }
            keys
        }
        Trigger::Cue(name) => TriggerKeys { cue: Some(name.clone()), ..none },
    }
}

fn aimed(Aim { what, at, rate, pitch }: Aim) -> ActionKeys {
    let usual = Action::aim("", "");
    let rate = (rate != usual.rate).then(|| quantity(&rate, degrees));
    let pitch = (pitch != usual.pitch).then(|| pitch.map(|it| quantity(&it, degrees)));
    ActionKeys { aim: Some(what), to: Some(at.into()), rate, pitch, ..ActionKeys::default() }
}

fn eased(ease: Easing) -> Option<String> {
    (ease != Easing::Linear).then(|| ease.to_string())
}

/// The keys of a `turn` or `face`.
fn turned(turn: Turn) -> ActionKeys {
    let none = ActionKeys::default();
    let Turn { what, towards, by, pace, ease } = turn;
    let (over, rate) = match pace {
        Pace::Over(over) => (given(&over, |it| it), None),
        Pace::Rate(rate) => (None, Some(quantity(&rate, degrees))),
    };
    let keys = ActionKeys { over, rate, ease: eased(ease), ..none };
    if towards.is_some() {
        return ActionKeys { face: Some(what), to: towards.map(Into::into), ..keys };
    }
    let by = Some(ByKeys::Amount(quantity(&by, degrees)));
    ActionKeys { turn: Some(what), by, ..keys }
}

/// The keys of a `fill` or `unfill`.
fn filled(slot: String, of: String, with: Filling) -> ActionKeys {
    let none = ActionKeys { of: Some(of), ..ActionKeys::default() };
    let (to, set) = match with {
        Filling::Entity(entity) => (Some(entity.into()), None),
        Filling::Number(number) => (None, Some(literal(number, Literal::Number))),
        Filling::Text(text) => (None, Some(Literal::Text(text))),
        Filling::Flag(up) => (None, Some(Literal::Flag(up))),
        Filling::Nothing => return ActionKeys { unfill: Some(slot), ..none },
    };
    ActionKeys { fill: Some(slot), to, set, ..none }
}

fn action(action: &Action) -> ActionKeys {
    let none = ActionKeys::default();
    match action.clone() {
        Action::Move(Move { what, to, axis, over, ease }) => {
            let (to, by) = match to {
                Destination::Home => (Some("home".to_owned().into()), None),
                Destination::Point => (Some("point".to_owned().into()), None),
                Destination::Entity(name) => (Some(name.into()), None),
                Destination::By(way) => (None, Some(ByKeys::Way(axes(&way)))),
            };
            let moved = Some(what);
            let (axis, over) = (axis.as_ref().map(axes), given(&over, |it| it));
            ActionKeys { moved, to, by, axis, over, ease: eased(ease), ..none }
        }
        Action::Turn(turn) => turned(turn),
        Action::Aim(aim) => aimed(aim),
        Action::Switch { what, switch, to } => switched(what, switch, to),
        Action::Tag { what, tag } => ActionKeys { tag: Some(what), with: Some(tag), ..none },
        Action::Untag { what, tag } => ActionKeys { untag: Some(what), with: Some(tag), ..none },
        Action::Count { name, of, change } => {
            let (add, set) = match change {
                Change::Add(amount) => (Some(literal(amount, Literal::Whole)), None),
                Change::Set(value) => (None, Some(literal(value, Literal::Whole))),
            };
            ActionKeys { count: Some(name), of, add, set, ..none }
        }
        Action::Flag { name, of, to } => {
            ActionKeys { flag: Some(name), of, set: to.map(Literal::Flag), ..none }
        }
        Action::Fill { slot, of, with } => filled(slot, of, with),
        Action::Stat { name, of, change: Change::Add(amount) } if name == HEALTH => {
            let by = Some(ByKeys::Amount(quantity(&amount, f64::abs)));
            let hurts = match &amount {
                Quantity::Fixed(amount) => *amount < 0.0,
                Quantity::Formula(formula) => formula.unit() < 0.0,
            };
            if hurts {
                ActionKeys { hurt: Some(of), by, ..none }
            } else {
                ActionKeys { heal: Some(of), by, ..none }
            }
        }
        Action::Stat { name, of, change } => {
            let (add, set) = match change {
                Change::Add(amount) => (Some(literal(amount, Literal::Number)), None),
                Change::Set(value) => (None, Some(literal(value, Literal::Number))),
            };
            ActionKeys { stat: Some(name), of: Some(of), add, set, ..none }
        }
        Action::Effect { name, of } => ActionKeys { effect: Some(name), of: Some(of), ..none },
        Action::EndEffect { name, of } => {
            ActionKeys { end_effect: Some(name), of: Some(of), ..none }
        }
        Action::Grant { grant, to } => {
            let grant = Some(grant.keys());
            ActionKeys { grant, to: Some(to.into()), ..none }
        }
        Action::Collect { what, to } => {
            ActionKeys { collect: Some(what), to: Some(to.into()), ..none }
        }
        Action::Say { key, to } => ActionKeys { say: Some(key), to: to.map(Into::into), ..none },
        Action::Cue { name, on, who } => ActionKeys { cue: Some(name), on, who, ..none },
        Action::Send { event, on, who } => {
            ActionKeys { send: Some(event.word().into()), on: Some(on), who, ..none }
        }
        Action::Spawn { kind, at } => ActionKeys { spawn: Some(kind), at: Some(at), ..none },
        Action::Remove(what) => ActionKeys { remove: Some(what), ..none },
        Action::Reset(what) => ActionKeys { reset: Some(what), ..none },
        Action::Attach { what, to } => {
            ActionKeys { attach: Some(what), to: Some(to.into()), ..none }
        }
        Action::Detach(what) => ActionKeys { detach: Some(what), ..none },
        Action::Call(name) => ActionKeys { call: Some(name), ..none },
        Action::Stop { name, of } => ActionKeys { stop: Some(name), of, ..none },
        Action::Wait(Wait::Seconds(seconds)) => {
            ActionKeys { wait: Some(literal(seconds, Literal::Number)), ..none }
        }
        Action::Wait(Wait::Arrival(what)) => ActionKeys { wait: Some(Literal::Text(what)), ..none },
        // Each by its name, so that one that is forgotten does not compile.
        moves @ (Action::Teleport(_)
        | Action::Walk { .. }
        | Action::Halt(_)
        | Action::Jump(_)
        | Action::Route { .. }
        | Action::Lead(_)
        | Action::Grab { .. }
        | Action::Own { .. }
        | Action::Disown(_)
        | Action::Drop(_)
        | Action::Throw(_)) => motion(moves),
    }
}

/// A number in the unit of the file, or the formula for it.
fn quantity(quantity: &Quantity, unit: impl Fn(f64) -> f64) -> QuantityKeys {
    match quantity {
        Quantity::Fixed(number) => QuantityKeys::Number(unit(*number)),
        Quantity::Formula(formula) => QuantityKeys::Formula(formula.text().into()),
    }
}

/// The same where 0 need not be given.
fn given(number: &Quantity, unit: impl Fn(f64) -> f64) -> Option<QuantityKeys> {
    (number.fixed() != Some(0.0)).then(|| quantity(number, unit))
}

/// A way along three axes.
fn axes(way: &[Quantity; 3]) -> [QuantityKeys; 3] {
    way.each_ref().map(|along| quantity(along, |it| it))
}

/// An amount, or the formula for it.
fn literal<N>(quantity: Quantity<N>, number: impl Fn(N) -> Literal) -> Literal {
    match quantity {
        Quantity::Fixed(amount) => number(amount),
        Quantity::Formula(formula) => Literal::Text(formula.text().into()),
    }
}

/// Those that move somebody otherwise than straight.
fn motion(action: Action) -> ActionKeys {
    let none = ActionKeys::default();
    match action {
        Action::Teleport(told) => teleport(told),
        Action::Walk { what, to } => ActionKeys { walk: Some(what), to: Some(to.into()), ..none },
        Action::Halt(what) => ActionKeys { halt: Some(what), ..none },
        Action::Jump(what) => ActionKeys { jump: Some(what), ..none },
        Action::Route { what, order: RouteOrder::Run } => ActionKeys { run: Some(what), ..none },
        Action::Route { what, order: RouteOrder::Reverse } => {
            ActionKeys { reverse: Some(what), ..none }
        }
        Action::Lead(Lead { what, through, pace, ease }) => {
            let (over, rate) = match pace {
                Pace::Over(over) => (Some(quantity(&over, |it| it)), None),
                Pace::Rate(rate) => (None, Some(quantity(&rate, |it| it))),
            };
            let (lead, through) = (Some(what), Some(through));
            let ease = (ease != Easing::Linear).then(|| ease.to_string());
            ActionKeys { lead, through, over, rate, ease, ..none }
        }
        Action::Disown(what) => ActionKeys { disown: Some(what), ..none },
        Action::Own { what, to } => ActionKeys { own: Some(what), to: Some(to.into()), ..none },
        Action::Grab { what, to } => ActionKeys { grab: Some(what), to: Some(to.into()), ..none },
        Action::Drop(what) => ActionKeys { drop: Some(what), ..none },
        Action::Throw(Throw { what, velocity, spin }) => {
            let (speed, spin) = (Some(axes(&velocity)), given(&spin, degrees));
            ActionKeys { throw: Some(what), speed, spin, ..none }
        }
        _ => none,
    }
}

fn teleport(told: Teleport) -> ActionKeys {
    let mut to = told.to;
    let keep =
        [(told.keep_facing, "facing"), (told.keep_speed, "speed"), (told.keep_offset, "offset")];
    let keep: Vec<String> =
        keep.into_iter().filter(|(kept, _)| *kept).map(|(_, word)| word.to_owned()).collect();
    let to = if to.len() == 1 { to.remove(0).into() } else { Names::Many(to) };
    ActionKeys {
        teleport: Some(told.what),
        to: Some(to),
        choose: (told.choose != Choose::First).then(|| told.choose.word().into()),
        keep: (!keep.is_empty()).then_some(Names::Many(keep)),
        free: told.free.then_some(true),
        stand: told.stand.then_some(true),
        ..ActionKeys::default()
    }
}

fn switched(what: String, switch: Switch, to: Option<bool>) -> ActionKeys {
    let none = ActionKeys::default();
    let (set, what) = (to.map(Literal::Flag), Some(what));
    match (switch, to) {
        (Switch::Enabled, Some(true)) => ActionKeys { enable: what, ..none },
        (Switch::Enabled, Some(false)) => ActionKeys { disable: what, ..none },
        (Switch::Enabled, None) => ActionKeys { toggle: what, ..none },
        (Switch::Visible, Some(false)) => ActionKeys { hide: what, ..none },
        (Switch::Visible, _) => ActionKeys { show: what, ..none },
        (Switch::Solid, _) => ActionKeys { solid: what, set, ..none },
        (Switch::Detect, _) => ActionKeys { detect: what, set, ..none },
    }
}
