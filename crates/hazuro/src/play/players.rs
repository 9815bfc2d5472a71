//! What players do: press keys, use what is offered, point and drag.

use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Detector, EntityId, EventKind};
use crate::detect::{Change, Failures, pointer, prompt};
use crate::record::By;
use crate::state::{
    Button, Cause, DragState, Event, KeyHold, Meeting, Origin, PointerState, Scheduled, Spot,
};
use crate::why::{AsUse, Witness};

use super::Play;

/// What may be used by a key or by name.
enum Wanted<'a> {
    Key(&'a str),
    Prompt(EntityId),
}

impl Play {
    /// The prompts that are offered to a player.
    pub(super) fn offered(&self, player: EntityId) -> Vec<EntityId> {
        let known = self.runtime.watch.known_by(player);
        known.filter(|(_, detector)| *detector == Detector::Prompt).map(|(on, _)| on).collect()
    }

    /// Asks what may be offered to a player, and sees to what it holds.
    pub(super) fn ask_prompts<W: Witness>(
        &mut self,
        player: EntityId,
        cause: Cause,
        witness: &mut W,
    ) -> bool {
        let offered = self.offered(player);
        let failures = Failures::default();
        let offers = prompt::ask(self.space(), player, &offered, cause, &failures, witness);
        let (changes, unsettled) = (offers.changes, offers.unsettled);
        let usable: Vec<EntityId> = offers.usable.iter().map(|usable| usable.prompt).collect();
        self.could_not_tell(player, Detector::Prompt, failures);
        let holding = self.state.senses.holdings.get(&player).copied();
        if let Some(KeyHold { prompt, since }) = holding.filter(|it| !usable.contains(&it.prompt)) {
            self.hold_ends(prompt, player, since, witness);
            self.state.senses.holdings.remove(&player);
            self.tell(EventKind::Cancel, prompt, player, None, witness);
        }
        for change in changes {
            self.report(&change, witness);
        }
        unsettled
    }

    /// A player presses a key.
    pub(super) fn press<W: Witness>(&mut self, player: EntityId, key: &str, witness: &mut W) {
        self.begin_use(player, &Wanted::Key(key), witness);
    }

    /// A player uses a prompt, whatever its key.
    pub(super) fn interact<W: Witness>(
        &mut self,
        player: EntityId,
        with: EntityId,
        witness: &mut W,
    ) {
        self.begin_use(player, &Wanted::Prompt(with), witness);
    }

    fn begin_use<W: Witness>(&mut self, player: EntityId, wanted: &Wanted<'_>, witness: &mut W) {
        self.ask_prompts(player, Cause::Move, witness);
        let offered = self.offered(player);
        let (space, scene) = (self.space(), &self.scene);
        let is_wanted = |on: EntityId| match wanted {
            Wanted::Key(key) => {
                let senses = scene.thing(on).senses.as_ref();
                let spec = senses.and_then(|senses| senses.prompt.as_ref());
                spec.is_some_and(|spec| spec.config.key == *key)
            }
            Wanted::Prompt(prompt) => on == *prompt,
        };
        let mut heard = AsUse(&mut *witness, is_wanted);
        // What could not be told has been said a moment before.
        let failures = Failures::default();
        let offers = prompt::ask(space, player, &offered, Cause::Move, &failures, &mut heard);
        let fit = offers.usable.iter().filter(|usable| is_wanted(usable.prompt));
        let fit: SmallVec<[_; 2]> = fit.map(|usable| (usable.prompt, usable.spec.hold)).collect();
        let Some(&(prompt, hold)) = fit.first() else { return };
        let held = Time::ZERO;
        let using = |prompt, rival| prompt::Using { space, prompt, player, rival, held };
        for (other, _) in fit.iter().skip(1).filter(|_| W::LISTENS) {
            using(*other, Some(prompt)).may_begin(witness);
        }
        let need = using(prompt, None).lacks();
        if !using(prompt, None).may_begin(witness) {
            self.tell(EventKind::Refused, prompt, player, need, witness);
        } else if hold > Time::ZERO {
            let since = self.state.now;
            self.state.senses.holdings.insert(player, KeyHold { prompt, since });
            self.state.put_off(since + hold, Scheduled::Held { player, since });
            self.tell(EventKind::Hold, prompt, player, None, witness);
        } else {
            using(prompt, None).may_end(witness);
            self.use_prompt(prompt, player, witness);
        }
    }

    /// A player lets go of a key.
    pub(super) fn release<W: Witness>(&mut self, player: EntityId, key: &str, witness: &mut W) {
        let Some(KeyHold { prompt, since }) = self.state.senses.holdings.get(&player).copied()
        else {
            return;
        };
        let senses = self.scene.thing(prompt).senses.as_ref();
        let spec = senses.and_then(|senses| senses.prompt.as_ref());
        if spec.is_some_and(|spec| spec.config.key == key) {
            self.hold_ends(prompt, player, since, witness);
            self.state.senses.holdings.remove(&player);
            self.tell(EventKind::Cancel, prompt, player, None, witness);
        }
    }

    /// Lets a witness hear for how long a key was held.
    fn hold_ends<W: Witness>(
        &self,
        prompt: EntityId,
        player: EntityId,
        since: Time,
        witness: &mut W,
    ) {
        let (space, held) = (self.space(), self.state.now - since);
        prompt::Using { space, prompt, player, rival: None, held }.may_end(witness);
    }

    /// A key has been held for as long as its prompt asked for.
    pub(super) fn held<W: Witness>(&mut self, player: EntityId, since: Time, witness: &mut W) {
        let holding = self.state.senses.holdings.get(&player).copied();
        if let Some(holding) = holding.filter(|holding| holding.since == since) {
            // It may have gone since it was last asked for.
            self.ask_prompts(player, Cause::Move, witness);
            if self.state.senses.holdings.remove(&player).is_some() {
                self.hold_ends(holding.prompt, player, since, witness);
                self.use_prompt(holding.prompt, player, witness);
            }
        }
    }

    fn use_prompt<W: Witness>(&mut self, prompt: EntityId, player: EntityId, witness: &mut W) {
        let senses = self.scene.thing(prompt).senses.as_ref();
        let spec = senses.and_then(|senses| senses.prompt.as_ref());
        let quiet = spec.is_some_and(|spec| spec.config.quiet);
        self.use_up(prompt, Detector::Prompt, player);
        let kind = if quiet { EventKind::Interact } else { EventKind::Accept };
        self.tell(kind, prompt, player, None, witness);
        // Its cooldown or limit may end the offer.
        self.runtime.watch.poll_awareness(&self.state, prompt, Cause::Admit);
    }

    fn tell<W: Witness>(
        &mut self,
        kind: EventKind,
        on: EntityId,
        who: EntityId,
        need: Option<String>,
        witness: &mut W,
    ) {
        let event = Event { on: Some(on), who: Some(who), need, ..self.event(kind) };
        let event = self.located(event, None);
        // What nobody does comes of what has moved.
        let origin = match self.state.causes.now {
            Origin::Start => self.state.what_brought(&self.scene, on, who, Cause::Move),
            now => now,
        };
        self.because(origin, |play| play.dispatch(&event, witness));
    }

    /// Finds out what a player's pointer is on, and tells of a change. What it is on, and where.
    pub(super) fn ask_pointer<W: Witness>(
        &mut self,
        player: EntityId,
        cause: Cause,
        witness: &mut W,
    ) -> Option<pointer::Pointed> {
        let state = *self.state.senses.pointers.get(&player)?;
        let failures = Failures::default();
        let pointed = pointer::ask(self.space(), player, state.at, &failures, witness);
        self.could_not_tell(player, Detector::Pointer, failures);
        let over = pointed.as_ref().and_then(|pointed| pointed.chain.first().copied());
        if over != state.over {
            self.state.senses.pointers.insert(player, PointerState { over, ..state });
            if let Some(was) = state.over {
                self.report(&Change::of(was, Detector::Pointer, player, false, cause), witness);
            }
            if let (Some(over), Some(pointed)) = (over, &pointed) {
                let change = Change::of(over, Detector::Pointer, player, true, cause);
                let meeting = Some(meeting(pointed));
                self.report(&Change { meeting, ..change }, witness);
            }
        }
        pointed
    }

    /// A player points somewhere, and maybe presses or lets go.
    pub(super) fn point<W: Witness>(
        &mut self,
        player: EntityId,
        spot: Spot,
        button: Button,
        witness: &mut W,
    ) {
        let at = match spot {
            Spot::Pixel(x, y) => Some((x, y)),
            Spot::Entity(entity) => {
                let place = self.state.pose(&self.scene, entity, self.state.now).position;
                pointer::on_screen(self.space(), player, place)
            }
        };
        let Some(at) = at else {
            if let (Spot::Entity(entity), true) = (spot, button != Button::Stays) {
                pointer::hear_behind(entity, player, self.state.now, witness);
            }
            return;
        };
        if W::LISTENS && button != Button::Stays {
            let (failures, mut heard) = (Failures::default(), AsUse(&mut *witness, |_| true));
            pointer::ask(self.space(), player, at, &failures, &mut heard);
        }
        let before =
            std::mem::replace(&mut self.state.senses.pointers.entry(player).or_default().at, at);
        let mut pointed = self.ask_pointer(player, Cause::Move, witness);
        if at != before {
            self.drag(player, witness);
        }
        if matches!(button, Button::Down | Button::Click) {
            self.button_down(player, pointed.as_ref(), witness);
            pointed = self.ask_pointer(player, Cause::Move, witness);
        }
        if matches!(button, Button::Up | Button::Click) {
            self.button_up(player, pointed.as_ref(), witness);
        }
    }

    fn button_down<W: Witness>(
        &mut self,
        player: EntityId,
        pointed: Option<&pointer::Pointed>,
        witness: &mut W,
    ) {
        let grip = pointed.and_then(|pointed| {
            let what = *pointed.chain.first()?;
            let point = pointed.hit.point;
            let origin = self.state.pose(&self.scene, what, self.state.now).position;
            Some(DragState { what, point, offset: origin - point })
        });
        let state = self.state.senses.pointers.entry(player).or_default();
        (state.is_down, state.pressed) = (true, grip);
        if let Some(what) =
            grip.map(|grip| grip.what).filter(|what| self.is_dragged_by_owner(*what))
        {
            let nobody = self.event(EventKind::PointerDown);
            self.acting(By::Host, &nobody, |act| act.seize(what, player));
            self.see_to_effects(witness);
        }
        self.send_up(EventKind::PointerDown, player, pointed, witness);
    }

    fn button_up<W: Witness>(
        &mut self,
        player: EntityId,
        pointed: Option<&pointer::Pointed>,
        witness: &mut W,
    ) {
        let state = self.state.senses.pointers.entry(player).or_default();
        let pressed = state.pressed.take();
        let was_down = std::mem::take(&mut state.is_down);
        if !was_down {
            return;
        }
        self.send_up(EventKind::PointerUp, player, pointed, witness);
        let same = pressed
            .zip(pointed)
            .is_some_and(|(grip, pointed)| pointed.chain.first() == Some(&grip.what));
        if same {
            self.send_up(EventKind::Click, player, pointed, witness);
        } else if pressed.is_none() && pointed.is_none_or(|pointed| pointed.chain.is_empty()) {
            self.miss(player, pointed, witness);
        }
        if let Some(grip) = pressed {
            self.in_context(witness, |it| it.put_down(grip.what, player));
        }
    }

    /// Whether something is dragged only by whoever owns it.
    fn is_dragged_by_owner(&self, what: EntityId) -> bool {
        let thing = self.scene.thing(what);
        let pointer = thing.senses.as_ref().and_then(|senses| senses.pointer.as_ref());
        thing.ownership.is_some() && pointer.is_some_and(|pointer| pointer.drag.is_some())
    }

    /// A player has clicked where nothing is to be clicked.
    fn miss<W: Witness>(
        &mut self,
        player: EntityId,
        pointed: Option<&pointer::Pointed>,
        witness: &mut W,
    ) {
        let Some(camera) = self.scene.camera_of(player) else { return };
        let event = Event {
            on: Some(camera),
            who: Some(player),
            was: pointed.map(|pointed| pointed.hit.entity),
            meeting: pointed.map(meeting),
            ..self.event(EventKind::Miss)
        };
        let event = self.located(event, None);
        self.dispatch(&event, witness);
    }

    /// Tells of an event of what the pointer is on, and, as long as nobody handles it, of its
    /// ancestors.
    fn send_up<W: Witness>(
        &mut self,
        kind: EventKind,
        player: EntityId,
        pointed: Option<&pointer::Pointed>,
        witness: &mut W,
    ) {
        let Some(pointed) = pointed else { return };
        for &on in &pointed.chain {
            if kind == EventKind::Click {
                if !pointer::may_click((&self.scene, &self.state), on, player, witness) {
                    continue;
                }
                self.use_up(on, Detector::Pointer, player);
            }
            let was = (pointed.hit.entity != on).then_some(pointed.hit.entity);
            let event = Event {
                on: Some(on),
                who: Some(player),
                was,
                meeting: Some(meeting(pointed)),
                ..self.event(kind)
            };
            let event = self.located(event, None);
            if self.dispatch(&event, witness) {
                return;
            }
        }
    }

    fn drag<W: Witness>(&mut self, player: EntityId, witness: &mut W) {
        let Some(state) = self.state.senses.pointers.get(&player).copied() else { return };
        let Some(grip) = state.pressed.filter(|_| state.is_down) else { return };
        let off = self.state.switched_off_by(&self.scene, grip.what).is_some()
            || (self.is_dragged_by_owner(grip.what) && self.state.owner(grip.what) != Some(player));
        let place = pointer::drag(self.space(), player, state.at, &grip);
        if let Some(place) = place.filter(|_| !off) {
            let point = place - grip.offset;
            let meeting = Meeting { point, normal: glam::DVec3::ZERO, speed: 0.0 };
            let event = Event {
                on: Some(grip.what),
                who: Some(player),
                at: Some(place),
                meeting: Some(meeting),
                ..self.event(EventKind::Drag)
            };
            self.dispatch(&event, witness);
        }
    }
}

fn meeting(pointed: &pointer::Pointed) -> Meeting {
    Meeting { point: pointed.hit.point, normal: pointed.hit.normal, speed: 0.0 }
}
