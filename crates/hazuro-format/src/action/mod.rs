//! Actions in files: the verbs, what goes with each, and how each is read and written.

#[macro_use]
mod table;
mod change;
mod movement;
mod reader;

use hazuro::scene::{Action, Change, Filling, HEALTH, Quantity, RouteOrder, Switch, Turn};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::literal::Literal;
use crate::keys::one_or_many::Names;
use crate::keys::quantity::QuantityKeys;
use crate::number::GrantKeys;
use crate::table::Table;

use reader::Reader;
pub(crate) use reader::{BadAction, read_action};

verbs! {
    partners {
        /// With `move`, `teleport`, `face`, `aim`, `attach`, `walk`: the entity meant; with `move` also
        /// `home`, or `point` for where a `drag` leads; with `teleport` maybe a list; with `grant`,
        /// `collect`, `grab` and `own`: who gets it; with `convert`: the kind; with `fill`: the entity for
        /// the slot; with `say`: who is shown it, or all of a kind or tag.
        to: Names;
        /// With `teleport` to several: `first`, `in_turn`, `random` or `nearest`. The
        /// default is `first`.
        choose: String;
        /// With `teleport`: what stays as it is, of `facing`, `speed` and `offset`, the place relative
        /// to the detector of the event.
        keep: Names;
        /// With `teleport`: only where there is room, else beside it or to the next.
        free: bool;
        /// With `teleport`: only where there is something to stand on.
        stand: bool;
        /// With `lead`: the entities whose places they are, in order.
        through: Vec<String>;
        /// With `throw`: how fast along the holder's axes, in metres per second; the holder faces -Z.
        speed: [QuantityKeys; 3];
        /// With `throw`: degrees per second about Y.
        spin: QuantityKeys;
        /// With `turn`: degrees, counter-clockwise from above; with `move`: metres along the axes of
        /// its parent; with `hurt` and `heal`: how much.
        by: ByKeys;
        /// With `move`: along which line in the world it goes, as `[1, 0, 0]`; of the way there only what lies
        /// along it. The default is all of it.
        axis: [QuantityKeys; 3];
        /// With `move`, `turn` and `face`: seconds the movement takes. The default is 0: at once.
        /// With `lead`: seconds for each leg. The default is 1.
        over: QuantityKeys;
        /// With `turn`, `face` and `aim`: degrees per second; with `lead`: metres per second.
        rate: QuantityKeys;
        /// With `aim`: how far down and up it looks, in degrees above level. The default is -90 to 90.
        pitch: [QuantityKeys; 2];
        /// With `move`, `turn` and `face`: a CSS easing, as `ease-in-out` or
        /// `cubic-bezier(0.2, 0, 0, 1)`.
        ease: String;
        /// With `tag` and `untag`: the tag.
        with: String;
        /// With `count` and `stat`: how much to add, which may be negative.
        add: Literal;
        /// With `count` and `stat`: the new value; with `flag`, `solid` and `detect`: true or false; with
        /// `fill`: the number (a formula, too), the text, or true or false for the slot.
        set: Literal;
        /// With `count`, `flag`, `fill`, `unfill`, `stat`, `effect` and `end_effect`: whose; a count or flag without it
        /// is the scene's. With `stop`: only for this subject.
        of: String;
        /// With `send` and `cue`: the detector.
        on: String;
        /// With `send` and `cue`: the subject.
        who: String;
        /// With `spawn`: the entity whose pose it takes.
        at: String;
    }

    /// Move an entity `to` another's place, `home` or `point`, or `by` so far.
    Move moved = "move": String [to by axis over ease] {
        read(reader, what) { Action::Move(reader.movement(what)?) }
        write(Action::Move(movement)) { movement::moved(movement) }
    }
    /// Put an entity where `to` is, at once.
    Teleport teleport: String [to choose keep free stand] {
        read(reader, what) { reader.teleport(what)? }
        write(Action::Teleport(teleport)) { movement::teleported(teleport) }
    }
    /// Turn an entity about Y, `by` in degrees.
    Turn turn: String [by over rate ease] {
        read(reader, what) { reader.turn(what)? }
        write(Action::Turn(turn @ Turn { towards: None, .. })) { movement::turned(turn) }
    }
    /// Turn an entity about Y towards `to`.
    Face face: String [to over rate ease] {
        read(reader, what) { reader.face(what)? }
        write(Action::Turn(turn)) { movement::turned(turn) }
    }
    /// Let an entity follow `to` with its look, in both angles, until it is turned or halted.
    Aim aim: String [to rate pitch] {
        read(reader, what) { reader.aim(what)? }
        write(Action::Aim(aim)) { movement::aimed(aim) }
    }
    /// Switch an entity on.
    Enable enable: String [] {
        read(_, what) { Action::enable(what) }
        write(Action::Switch { what, switch: Switch::Enabled, to: Some(true) }) {
            Self { enable: Some(what), ..none() }
        }
    }
    /// Switch an entity and its children off.
    Disable disable: String [] {
        read(_, what) { Action::disable(what) }
        write(Action::Switch { what, switch: Switch::Enabled, to: Some(false) }) {
            Self { disable: Some(what), ..none() }
        }
    }
    /// Switch an entity over.
    Toggle toggle: String [] {
        read(_, what) { Action::toggle(what) }
        write(Action::Switch { what, switch: Switch::Enabled, to: None }) {
            Self { toggle: Some(what), ..none() }
        }
    }
    /// Make an entity visible.
    Show show: String [] {
        read(_, what) { Action::show(what) }
        write(Action::Switch { what, switch: Switch::Visible, to: Some(true) | None }) {
            Self { show: Some(what), ..none() }
        }
    }
    /// Make an entity and its children invisible.
    Hide hide: String [] {
        read(_, what) { Action::hide(what) }
        write(Action::Switch { what, switch: Switch::Visible, to: Some(false) }) {
            Self { hide: Some(what), ..none() }
        }
    }
    /// Let an entity and its children block, or not: `set` true or false.
    Solid solid: String [set] {
        read(reader, what) { Action::Switch { what, switch: Switch::Solid, to: reader.setting()? } }
        write(Action::Switch { what, switch: Switch::Solid, to }) {
            Self { solid: Some(what), set: to.map(Literal::Flag), ..none() }
        }
    }
    /// Let the detectors of an entity and its children detect, or not: `set` true or false.
    Detect detect: String [set] {
        read(reader, what) {
            Action::Switch { what, switch: Switch::Detect, to: reader.setting()? }
        }
        write(Action::Switch { what, switch: Switch::Detect, to }) {
            Self { detect: Some(what), set: to.map(Literal::Flag), ..none() }
        }
    }
    /// Give an entity the tag `with`.
    Tag tag: String [with] {
        read(reader, what) { Action::tag(what, reader.with()?) }
        write(Action::Tag { what, tag }) { Self { tag: Some(what), with: Some(tag), ..none() } }
    }
    /// Take the tag `with` from an entity.
    Untag untag: String [with] {
        read(reader, what) { Action::untag(what, reader.with()?) }
        write(Action::Untag { what, tag }) { Self { untag: Some(what), with: Some(tag), ..none() } }
    }
    /// Make an entity like the kind `to`, until it is reverted: what the kind gives counts first.
    Convert convert: String [to] {
        read(reader, what) { Action::convert(what, reader.to()?) }
        write(Action::Convert { what, to }) {
            Self { convert: Some(what), to: Some(to.into()), ..none() }
        }
    }
    /// Make an entity what it was before it was converted.
    Revert revert: String [] {
        read(_, what) { Action::revert(what) }
        write(Action::Revert(what)) { Self { revert: Some(what), ..none() } }
    }
    /// Change this count by `add` or `set`.
    Count count: String [add set of] {
        read(reader, name) {
            Action::Count { name, of: reader.keys.of.clone(), change: reader.whole()? }
        }
        write(Action::Count { name, of, change }) {
            Self { count: Some(name), of, ..change::changed(change, Literal::Whole) }
        }
    }
    /// Raise or lower this flag: `set` true or false; over if there is no `set`.
    Flag flag: String [set of] {
        read(reader, name) {
            Action::Flag { name, of: reader.keys.of.clone(), to: reader.setting()? }
        }
        write(Action::Flag { name, of, to }) {
            Self { flag: Some(name), of, set: to.map(Literal::Flag), ..none() }
        }
    }
    /// Empty this slot of `of`.
    Unfill unfill: String [of] {
        read(reader, slot) { Action::unfill(reader.of()?, slot) }
        write(Action::Fill { slot, of, with: Filling::Nothing }) {
            Self { unfill: Some(slot), of: Some(of), ..none() }
        }
    }
    /// Put something else into this slot of `of`: `to` an entity, or `set` to a value.
    Fill fill: String [of to set] {
        read(reader, slot) {
            let with = reader.filling(&slot)?;
            Action::fill(reader.of()?, slot, with)
        }
        write(Action::Fill { slot, of, with }) {
            Self { fill: Some(slot), of: Some(of), ..change::filled(with) }
        }
    }
    /// Lower an entity's stat `health` `by` an amount.
    Hurt hurt: String [by] {
        read(reader, whom) { Action::hurt(whom, reader.amount("hurt")?) }
        write(Action::Stat { name, of, change: Change::Add(by) } if name == HEALTH && is_loss(&by)) {
            Self { hurt: Some(of), by: Some(change::amount(&by)), ..none() }
        }
    }
    /// Raise an entity's stat `health` `by` an amount.
    Heal heal: String [by] {
        read(reader, whom) { Action::heal(whom, reader.amount("heal")?) }
        write(Action::Stat { name, of, change: Change::Add(by) } if name == HEALTH) {
            Self { heal: Some(of), by: Some(change::amount(&by)), ..none() }
        }
    }
    /// Change this stat by `add` or `set`.
    Stat stat: String [add set of] {
        read(reader, name) {
            let of = reader.of()?;
            Action::stat(of, name, reader.number()?)
        }
        write(Action::Stat { name, of, change }) {
            Self { stat: Some(name), of: Some(of), ..change::changed(change, Literal::Number) }
        }
    }
    /// Put this effect on the entity that it is `of`.
    Effect effect: String [of] {
        read(reader, name) { Action::effect(name, reader.of()?) }
        write(Action::Effect { name, of }) { Self { effect: Some(name), of: Some(of), ..none() } }
    }
    /// End this effect on the entity that it is `of`.
    EndEffect end_effect: String [of] {
        read(reader, name) { Action::end_effect(name, reader.of()?) }
        write(Action::EndEffect { name, of }) {
            Self { end_effect: Some(name), of: Some(of), ..none() }
        }
    }
    /// Let `to` collect this pickup.
    Collect collect: String [to] {
        read(reader, what) { Action::collect(what, reader.to()?) }
        write(Action::Collect { what, to }) {
            Self { collect: Some(what), to: Some(to.into()), ..none() }
        }
    }
    /// Show the text of this key, to everybody or `to` somebody.
    Say say: String [to] {
        read(reader, key) {
            let to = if reader.keys.to.is_some() { Some(reader.to()?) } else { None };
            Action::Say { key, to }
        }
        write(Action::Say { key, to }) { Self { say: Some(key), to: to.map(Into::into), ..none() } }
    }
    /// Send the cue of this name, maybe with another detector `on` or subject `who` than the event's.
    Cue cue: String [on who] {
        read(reader, name) {
            Action::Cue { name, on: reader.keys.on.clone(), who: reader.keys.who.clone() }
        }
        write(Action::Cue { name, on, who }) { Self { cue: Some(name), on, who, ..none() } }
    }
    /// Send this event by hand, `on` a detector, maybe of `who`.
    Send send: String [on who] {
        read(reader, event) {
            let event = reader.event(&event)?;
            Action::Send { event, on: reader.on()?, who: reader.keys.who.clone() }
        }
        write(Action::Send { event, on, who }) {
            Self { send: Some(event.word().into()), on: Some(on), who, ..none() }
        }
    }
    /// Bring out one of the stock of this kind, `at` an entity.
    Spawn spawn: String [at] {
        read(reader, kind) { Action::spawn(kind, reader.at()?) }
        write(Action::Spawn { kind, at }) { Self { spawn: Some(kind), at: Some(at), ..none() } }
    }
    /// Take an entity and its children out of the play.
    Remove remove: String [] {
        read(_, what) { Action::Remove(what) }
        write(Action::Remove(what)) { Self { remove: Some(what), ..none() } }
    }
    /// Make an entity and its children what and where they were at the start.
    Reset reset: String [] {
        read(_, what) { Action::Reset(what) }
        write(Action::Reset(what)) { Self { reset: Some(what), ..none() } }
    }
    /// Make an entity a child of `to`, where it is now.
    Attach attach: String [to] {
        read(reader, what) { Action::attach(what, reader.to()?) }
        write(Action::Attach { what, to }) {
            Self { attach: Some(what), to: Some(to.into()), ..none() }
        }
    }
    /// Make an entity nobody's child, where it is now.
    Detach detach: String [] {
        read(_, what) { Action::Detach(what) }
        write(Action::Detach(what)) { Self { detach: Some(what), ..none() } }
    }
    /// Let somebody walk to where `to` is.
    Walk walk: String [to] {
        read(reader, what) { Action::walk(what, reader.to()?) }
        write(Action::Walk { what, to }) {
            Self { walk: Some(what), to: Some(to.into()), ..none() }
        }
    }
    /// Let somebody stop walking, or something stop on its route.
    Halt halt: String [] {
        read(_, what) { Action::halt(what) }
        write(Action::Halt(what)) { Self { halt: Some(what), ..none() } }
    }
    /// Let somebody jump.
    Jump jump: String [] {
        read(_, what) { Action::jump(what) }
        write(Action::Jump(what)) { Self { jump: Some(what), ..none() } }
    }
    /// Set an entity going along its route, or let it go on.
    Run run: String [] {
        read(_, what) { Action::run(what) }
        write(Action::Route { what, order: RouteOrder::Run }) { Self { run: Some(what), ..none() } }
    }
    /// Let an entity turn back along its route, from where it is.
    Reverse reverse: String [] {
        read(_, what) { Action::reverse(what) }
        write(Action::Route { what, order: RouteOrder::Reverse }) {
            Self { reverse: Some(what), ..none() }
        }
    }
    /// Take somebody along some places, `through` these entities.
    Lead lead: String [through over rate ease] {
        read(reader, what) { reader.lead(what)? }
        write(Action::Lead(lead)) { movement::led(lead) }
    }
    /// Put a thing into the hands of `to`.
    Grab grab: String [to] {
        read(reader, what) { Action::grab(what, reader.to()?) }
        write(Action::Grab { what, to }) {
            Self { grab: Some(what), to: Some(to.into()), ..none() }
        }
    }
    /// Let a thing belong to `to`.
    Own own: String [to] {
        read(reader, what) { Action::own(what, reader.to()?) }
        write(Action::Own { what, to }) { Self { own: Some(what), to: Some(to.into()), ..none() } }
    }
    /// Let a thing belong to nobody.
    Disown disown: String [] {
        read(_, what) { Action::disown(what) }
        write(Action::Disown(what)) { Self { disown: Some(what), ..none() } }
    }
    /// Let go of a thing that is held; or make a holder let go.
    Drop drop: String [] {
        read(_, what) { Action::drop(what) }
        write(Action::Drop(what)) { Self { drop: Some(what), ..none() } }
    }
    /// Throw a thing that is held; or make a holder throw.
    Throw throw: String [speed spin] {
        read(reader, what) { reader.throw(what)? }
        write(Action::Throw(throw)) { movement::thrown(throw) }
    }
    /// Give this `to` somebody.
    Grant grant: GrantKeys [to] {
        read(reader, grant) { Action::grant(grant.grant(), reader.to()?) }
        write(Action::Grant { grant, to }) {
            Self { grant: Some(grant.keys()), to: Some(to.into()), ..none() }
        }
    }
    /// Run the script function of this name.
    Call call: String [] {
        read(_, name) { Action::Call(name) }
        write(Action::Call(name)) { Self { call: Some(name), ..none() } }
    }
    /// End what the reaction of this name still has to do.
    Stop stop: String [of] {
        read(reader, name) { Action::Stop { name, of: reader.keys.of.clone() } }
        write(Action::Stop { name, of }) { Self { stop: Some(name), of, ..none() } }
    }
    /// Delay the actions after it by this many seconds, a number or a formula, or until this entity
    /// has arrived.
    Wait wait: Literal [] {
        read(reader, wait) { Action::Wait(reader.wait(&wait)?) }
        write(Action::Wait(wait)) { Self { wait: Some(change::awaited(wait)), ..none() } }
    }
}

/// No key at all, for what is not given.
fn none() -> ActionKeys {
    ActionKeys::default()
}

/// Whether an amount is taken away: of a formula its unit says so.
fn is_loss(amount: &Quantity) -> bool {
    match amount {
        Quantity::Fixed(amount) => *amount < 0.0,
        Quantity::Formula(formula) => formula.unit() < 0.0,
    }
}

/// A number, or a way along three axes.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a number, a formula or [x, y, z]")]
pub(crate) enum ByKeys {
    /// A number, or a formula that gives one.
    Amount(QuantityKeys),
    /// A way, in metres.
    Way([QuantityKeys; 3]),
}
