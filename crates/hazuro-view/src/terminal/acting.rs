//! What a player does by keys and mouse, and what is done by hand from lists.

use hazuro::glam::DVec3;
use hazuro::scene::{Action, Detector, Scene, Throw};
use hazuro::{Button, EntityId, Input, Spot, Time};

use crate::figures::Firings;
use crate::view::{View, Window};

use super::console::{Choice, Console, Focus};
use super::why::detectors_of;

/// How far one goes at a key, in metres, and with shift.
const STRIDES: [f64; 2] = [1.0, 4.0];
/// How long a key is down at least.
const TAP: Time = Time::from_nanos(50_000_000);
/// How fast things are thrown ahead and up, in metres per second.
const THROW: [f64; 3] = [0.0, 3.0, -6.0];

impl Console {
    /// Walks by strides to the right and up in the view.
    pub(super) fn walk(&mut self, [right, up]: [f64; 2], far: bool) {
        let Some(who) = self.player_or_tell() else { return };
        let Ok(pose) = self.play().pose(who) else { return };
        let view = self.viewport.map_or(View::Top, |viewport| viewport.view);
        let away = match view {
            View::Top => view.direction([0.0, 1.0]),
            // Up is into the picture.
            View::Front => DVec3::NEG_Z,
            View::Side => DVec3::NEG_X,
        };
        let way = view.direction([1.0, 0.0]) * right + away * up;
        let to = pose.position + way * STRIDES[usize::from(far)];
        self.walk_to(who, to);
    }

    fn walk_to(&mut self, who: EntityId, to: DVec3) {
        // What stands in a file is read by people.
        let to = (to * 1e3).round() / 1e3;
        if self.scene().walking_speed(who).is_some() {
            self.give(Input::Walk { who, to: to.to_array().into() });
        } else {
            let far = self.play().pose(who).map_or(0.0, |pose| pose.position.distance(to));
            let until = self.rewind.now() + Time::from_secs(far / 3.0);
            self.give(Input::Drive { who, to: to.to_array().into(), until });
        }
        self.wake();
    }

    /// What is done while paused is seen at once.
    fn wake(&mut self) {
        if !self.running {
            self.tell("done; P or . plays on");
        }
    }

    fn player_or_tell(&mut self) -> Option<EntityId> {
        let player = self.player();
        if player.is_none() {
            self.tell("nobody here is a player: give somebody player = true, or a body");
        }
        player
    }

    pub(super) fn jump(&mut self) {
        if let Some(who) = self.player_or_tell() {
            if self.scene().jump_height(who).is_none_or(|height| height <= 0.0) {
                let name = self.scene().name(who).to_owned();
                return self.tell(format!("{name} cannot jump: give its body a jump = height"));
            }
            self.give(Input::Act(Action::Jump(who)));
            self.wake();
        }
    }

    /// Presses a key as long as what it is for takes.
    pub(super) fn press(&mut self, key: &str) {
        let Some(who) = self.player_or_tell() else { return };
        if !self.scene().is_player(who) {
            let name = self.scene().name(who).to_owned();
            return self.tell(format!("{name} is no player, so it presses nothing"));
        }
        let offers = self.play().offers(who).unwrap_or_default();
        let offer = offers.iter().find(|offer| offer.key == key);
        let hold = offer.map_or(0.0, |offer| offer.hold);
        let words = match offer {
            Some(offer) if hold > 0.0 => {
                format!("{}: {key} is held {hold} s", offer.caption)
            }
            Some(offer) => format!("{}: {key}", offer.caption),
            None => format!("{key}: nothing is offered for it here"),
        };
        let until = self.rewind.now() + Time::from_secs(hold) + TAP;
        self.give(Input::Press { who, key: key.into() });
        // The key was good enough to be pressed.
        let _ = self.rewind.later(until, Input::Release { who, key: key.into() });
        self.tell(words);
    }

    /// Uses the first of what is offered.
    pub(super) fn press_first(&mut self) {
        let Some(who) = self.player_or_tell() else { return };
        let offers = self.play().offers(who).unwrap_or_default();
        match offers.first().map(|offer| offer.key.to_owned()) {
            Some(key) => self.press(&key),
            None => self.tell("nothing is offered here"),
        }
    }

    /// Takes the nearest thing that can be carried, or lets go of what is held.
    pub(super) fn grab(&mut self) {
        let Some(who) = self.player_or_tell() else { return };
        if self.play().in_hands(who).is_ok_and(|held| !held.is_empty()) {
            return self.give(Input::Act(Action::Drop(who)));
        }
        let place = |id: EntityId| self.play().pose(id).map(|pose| pose.position).ok();
        let Some(here) = place(who) else { return };
        let things = self.scene().ids().filter(|id| self.scene().has(*id, Detector::Carry));
        let near = things.filter_map(|id| Some((id, place(id)?.distance(here))));
        let nearest = near.min_by(|one, other| one.1.total_cmp(&other.1));
        match nearest {
            Some((what, _)) => {
                self.give(Input::Grab { who, what });
                self.wake();
            }
            None => self.tell("nothing here can be carried"),
        }
    }

    pub(super) fn throw(&mut self) {
        let Some(who) = self.player_or_tell() else { return };
        if self.play().in_hands(who).is_ok_and(|held| held.is_empty()) {
            return self.tell("nothing is held; G takes what is near");
        }
        self.give(Input::Act(Action::Throw(Throw { what: who, velocity: THROW, spin: 0.0 })));
        self.wake();
    }

    /// The thing at a point of the view, the smallest first: those that `counts`.
    fn at_point(
        &self,
        point: crate::view::Flat,
        slack: f64,
        counts: &dyn Fn(EntityId) -> bool,
    ) -> Option<EntityId> {
        let view = self.viewport.map_or(View::Top, |viewport| viewport.view);
        let firings = Firings::default();
        let figures = crate::figures::figures(self.play(), &firings);
        let holds = |window: &Window| window.grown(slack).holds(point);
        let found = figures
            .iter()
            .filter(|figure| counts(figure.entity))
            .map(|figure| (figure.entity, figure.window(view)))
            .filter(|(_, window)| !window.is_empty() && holds(window));
        let size = |window: &Window| window.size()[0] * window.size()[1];
        found.min_by(|one, other| size(&one.1).total_cmp(&size(&other.1))).map(|it| it.0)
    }

    /// Clicks what can be clicked at a cell, or else chooses the detector there.
    pub(super) fn click(&mut self, column: u16, row: u16) {
        let Some(viewport) = self.viewport else { return };
        let (point, slack) = (viewport.point(self.area, column, row), 3.0 / viewport.dots);
        let scene = self.loaded.scene.clone();
        let clickable = |id| scene.has(id, Detector::Pointer);
        let detects = |id| detectors_of(&scene, id).next().is_some();
        let player = self.player().filter(|who| scene.camera_of(*who).is_some());
        match (self.at_point(point, slack, &clickable), player) {
            (Some(on), Some(who)) => {
                self.chosen = Some(on);
                self.give(Input::Point { who, at: Spot::Entity(on), button: Button::Click });
                self.wake();
            }
            (Some(on), None) => {
                self.chosen = Some(on);
                self.tell("the player has no camera to click through");
            }
            (None, _) => match self.at_point(point, slack, &detects) {
                Some(on) => self.chosen = Some(on),
                None => self.tell("nothing here to click or to choose"),
            },
        }
    }

    /// Chooses the detector under the mouse.
    pub(super) fn hover(&mut self, column: u16, row: u16) {
        let Some(viewport) = self.viewport else { return };
        let point = viewport.point(self.area, column, row);
        let scene = self.loaded.scene.clone();
        let detects = |id| detectors_of(&scene, id).next().is_some();
        if let Some(on) = self.at_point(point, 1.0 / viewport.dots, &detects) {
            self.chosen = Some(on);
        }
    }

    /// Walks to a cell, around what is in the way.
    pub(super) fn walk_to_cell(&mut self, column: u16, row: u16) {
        let (Some(viewport), Some(who)) = (self.viewport, self.player_or_tell()) else { return };
        let Ok(pose) = self.play().pose(who) else { return };
        let [right, up] = viewport.point(self.area, column, row);
        let here = pose.position;
        let to = match viewport.view {
            View::Top => DVec3::new(right, here.y, -up),
            View::Front => DVec3 { x: right, ..here },
            View::Side => DVec3 { z: -right, ..here },
        };
        self.walk_to(who, to);
    }

    /// What may be chosen of: the cues of the scene.
    pub(super) fn cues(&mut self) {
        let items: Vec<(String, Choice)> =
            cues(self.scene()).into_iter().map(|cue| (cue.clone(), Choice::Cue(cue))).collect();
        self.menu("Send a cue", items, "no reaction of this scene waits for a cue");
    }

    /// What may be chosen of: the events of the chosen detector.
    pub(super) fn pokes(&mut self) {
        let Some(on) = self.chosen else {
            return self.tell("no detector is chosen; N chooses one");
        };
        let mut items = Vec::new();
        for kind in hazuro::scene::EventKind::ALL {
            let has = kind.detector().is_some_and(|it| {
                self.scene().has(on, it) && !matches!(it, Detector::Route | Detector::Teleport)
            });
            if has {
                items.push((kind.word().to_owned(), Choice::Poke(on, *kind)));
            }
        }
        let title = format!("Poke {}", self.scene().name(on));
        self.menu(&title, items, "it has no detector");
    }

    fn menu(&mut self, title: &str, items: Vec<(String, Choice)>, empty: &str) {
        if items.is_empty() {
            return self.tell(empty);
        }
        self.focus = Focus::Menu { title: title.into(), items, at: 0 };
    }

    pub(super) fn choose(&mut self, choice: Choice) {
        self.focus = Focus::Play;
        match choice {
            Choice::Cue(cue) => {
                self.give(Input::Act(Action::Cue { name: cue, on: None, who: None }));
            }
            Choice::Poke(on, event) => {
                let who = self.player();
                self.give(Input::Act(Action::Send { event, on, who }));
            }
        }
        self.wake();
    }
}

/// The cues that reactions wait for, in order and each once.
fn cues(scene: &Scene) -> Vec<String> {
    let mut cues: Vec<String> = Vec::new();
    for trigger in scene.reactions().iter().flat_map(hazuro::scene::Reaction::triggers) {
        if let hazuro::scene::Trigger::Cue(cue) = trigger
            && !cues.contains(cue)
        {
            cues.push(cue.clone());
        }
    }
    cues
}
