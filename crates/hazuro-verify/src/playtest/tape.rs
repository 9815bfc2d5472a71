//! Reading the tape of a playtest: what players do.

use hazuro::scene::{Action, Detector, Fault, Field, Switch, Throw};
use hazuro::{Button, EntityId, Input, Spot, Target, Time};

use super::Reader;
use super::file::{PlaceKeys, SpotKeys, TapeKeys};

/// What is done with legs and hands.
const DEEDS: [&str; 8] = ["walk_along", "follow", "halt", "jump", "grab", "drop", "throw", "poke"];

/// A verb of the pointer, where it points, and what its button does.
type SpotEntry<'a> = (&'static str, &'a Option<SpotKeys>, Button);

impl Reader<'_> {
    pub(super) fn place(&mut self, place: &PlaceKeys, field: &Field) -> Option<Target> {
        match place {
            PlaceKeys::Name(name) => self.entity(name, field).map(Target::Entity),
            PlaceKeys::Place(place) => Some(Target::from(*place)),
        }
    }

    fn spot(&mut self, spot: &SpotKeys, field: &Field) -> Option<Spot> {
        match spot {
            SpotKeys::Name(name) => self.entity(name, field).map(Spot::Entity),
            SpotKeys::Pixel(pixel) => Some(Spot::from(*pixel)),
        }
    }

    /// The inputs of an entry; most are one.
    pub(crate) fn entry(&mut self, keys: &TapeKeys, field: &Field) -> Option<Vec<(Time, Input)>> {
        let at = self.seconds(keys.at, &field.key("at"));
        let places = [
            ("walk_to", &keys.walk_to),
            ("walk_straight", &keys.walk_straight),
            ("drive_to", &keys.drive_to),
            ("place_at", &keys.place_at),
            ("face", &keys.face),
        ];
        let words = [
            ("press", &keys.press),
            ("release", &keys.release),
            ("hold", &keys.hold),
            ("interact", &keys.interact),
            ("cue", &keys.cue),
            ("enable", &keys.enable),
            ("disable", &keys.disable),
        ];
        let deeds = [
            ("walk_along", keys.walk_along.is_some()),
            ("follow", keys.follow.is_some()),
            ("halt", keys.halt.is_some()),
            ("jump", keys.jump.is_some()),
            ("grab", keys.grab.is_some()),
            ("drop", keys.drop.is_some()),
            ("throw", keys.throw.is_some()),
            ("poke", keys.poke.is_some()),
        ];
        let spots = [
            ("pointer", &keys.pointer, Button::Stays),
            ("pointer_down", &keys.pointer_down, Button::Down),
            ("pointer_up", &keys.pointer_up, Button::Up),
            ("click", &keys.click, Button::Click),
        ];
        let mut verbs: Vec<&str> = Vec::new();
        verbs.extend(places.iter().filter(|(_, place)| place.is_some()).map(|(verb, _)| *verb));
        verbs.extend(deeds.iter().filter(|(_, there)| *there).map(|(verb, _)| *verb));
        verbs.extend(words.iter().filter(|(_, word)| word.is_some()).map(|(verb, _)| *verb));
        verbs.extend(spots.iter().filter(|(_, spot, _)| spot.is_some()).map(|(verb, ..)| *verb));
        let &[verb] = verbs.as_slice() else {
            let message = "an entry of a tape does one thing";
            let help = "give one of: walk_to, walk_straight, walk_along, follow, halt, jump, \
                        drive_to, place_at, \
                        face, grab, drop, throw, poke, press, release, hold, interact, pointer, \
                        pointer_down, pointer_up, click, cue, enable, disable";
            self.error(field, "one-action", message, help);
            return None;
        };
        if keys.from_afar.is_some() && verb != "grab" {
            let help = "take it away";
            self.error(&field.key("from_afar"), "no-partner", "`from_afar` goes with `grab`", help);
        }
        if keys.over.is_some() && !["drive_to", "hold"].contains(&verb) {
            let help = "a walk takes as long as it takes; `drive_to` takes `over` seconds";
            let message = "`over` goes with `drive_to` and `hold`";
            self.error(&field.key("over"), "no-partner", message, help);
        }
        if keys.event.is_some() && verb != "poke" {
            let message = "`event` goes with `poke`";
            self.error(&field.key("event"), "no-partner", message, "leave it out");
        }
        if keys.near.is_some() && verb != "follow" {
            let message = "`near` goes with `follow`";
            self.error(&field.key("near"), "no-partner", message, "leave it out");
        }
        let inputs = self.inputs(keys, verb, (&places, &spots), at, field)?;
        for (_, input) in &inputs {
            if let Err(fault) = input.check(self.scene) {
                let key = match fault {
                    Fault::NoPlayer { .. } => "who",
                    _ if keys.near.is_some() => "near",
                    _ => verb,
                };
                self.fault(&field.key(key), &fault);
            }
        }
        Some(inputs)
    }

    /// The inputs of an entry that does one thing.
    fn inputs(
        &mut self,
        keys: &TapeKeys,
        verb: &str,
        (places, spots): (&[(&'static str, &Option<PlaceKeys>)], &[SpotEntry<'_>]),
        at: Time,
        field: &Field,
    ) -> Option<Vec<(Time, Input)>> {
        if let Some(name) = &keys.cue {
            let who = match &keys.who {
                Some(who) => Some(self.entity(who, &field.key("who"))?),
                None => None,
            };
            let cue = Action::Cue { name: name.clone(), on: None, who };
            return Some(vec![(at, Input::Act(cue))]);
        }
        for (key, name, on) in [("enable", &keys.enable, true), ("disable", &keys.disable, false)] {
            if let Some(name) = name {
                let what = self.entity(name, &field.key(key))?;
                let (switch, to) = (Switch::Enabled, Some(on));
                return Some(vec![(at, Input::Act(Action::Switch { what, switch, to }))]);
            }
        }
        let Some(name) = &keys.who else {
            self.error(field, "missing-key", "the key `who` is missing here", "say who does it");
            return None;
        };
        let who = self.entity(name, &field.key("who"))?;
        for (place_verb, place) in places {
            if let Some(place) = place {
                let to = self.place(place, &field.key(*place_verb))?;
                let input = self.movement(keys, (who, name), (place_verb, to), at, field)?;
                return Some(vec![(at, input)]);
            }
        }
        if DEEDS.contains(&verb) {
            return Some(vec![(at, self.deed(keys, (who, name), field)?)]);
        }
        for (_, spot, button) in spots {
            if let Some(spot) = spot {
                let button = *button;
                if self.scene.camera_of(who).is_none() {
                    let message = format!("`{name}` has no camera to point through");
                    let help = "add an entity with camera = {}, as its child or on its own";
                    self.error(&field.key(verb), "no-camera", &message, help);
                }
                let at_spot = self.spot(spot, &field.key(verb))?;
                return Some(vec![(at, Input::Point { who, at: at_spot, button })]);
            }
        }
        self.keys(keys, who, at, field)
    }

    /// What is done with keys, and without.
    fn keys(
        &mut self,
        keys: &TapeKeys,
        who: EntityId,
        at: Time,
        field: &Field,
    ) -> Option<Vec<(Time, Input)>> {
        if let Some(name) = &keys.interact {
            let with = self.entity(name, &field.key("interact"))?;
            if !self.scene.has(with, Detector::Prompt) {
                let message = format!("`{name}` cannot be used");
                let help = "give it a `prompt` or `interact`";
                self.error(&field.key("interact"), "no-detector", &message, help);
            }
            return Some(vec![(at, Input::Interact { who, with })]);
        }
        let press = |key: &String| (at, Input::Press { who, key: key.clone() });
        let release = |at, key: &String| (at, Input::Release { who, key: key.clone() });
        if let Some(key) = &keys.hold {
            let over = self.over(keys, "hold", field)?;
            return Some(vec![press(key), release(at + over, key)]);
        }
        let pressed = keys.press.as_ref().map(press);
        pressed.or(keys.release.as_ref().map(|key| release(at, key))).map(|input| vec![input])
    }

    /// What is done with legs and hands.
    fn deed(
        &mut self,
        keys: &TapeKeys,
        (who, name): (EntityId, &str),
        field: &Field,
    ) -> Option<Input> {
        if let Some(places) = &keys.walk_along {
            let field = field.key("walk_along");
            self.must_walk((who, name), &field);
            let places: Vec<Option<Target>> = places
                .iter()
                .enumerate()
                .map(|(index, place)| self.place(place, &field.item(index)))
                .collect();
            return Some(Input::WalkAlong {
                who,
                through: places.into_iter().collect::<Option<_>>()?,
            });
        }
        if let Some(whom) = &keys.follow {
            self.must_walk((who, name), &field.key("follow"));
            let whom = self.entity(whom, &field.key("follow"))?;
            return Some(Input::Follow { who, whom, near: keys.near.unwrap_or(1.0) });
        }
        for (key, said) in [("halt", keys.halt), ("jump", keys.jump), ("drop", keys.drop)] {
            if said == Some(false) {
                let message = format!("`{key} = false` does nothing");
                self.error(&field.key(key), "bad-value", &message, "leave it out");
            }
        }
        if keys.halt.is_some() || keys.jump.is_some() {
            let key = if keys.halt.is_some() { "halt" } else { "jump" };
            self.must_walk((who, name), &field.key(key));
        }
        if keys.jump.is_some() && self.scene.jump_height(who) == Some(0.0) {
            let message = format!("`{name}` cannot jump");
            let help = "give its body a jump = height, in metres";
            self.error(&field.key("jump"), "cannot-jump", &message, help);
        }
        if let Some(name) = &keys.poke {
            return self.poke(keys, name, who, field);
        }
        Some(Input::Act(if let Some(thing) = &keys.grab {
            let what = self.entity(thing, &field.key("grab"))?;
            if !self.scene.has(what, Detector::Carry) {
                let message = format!("`{thing}` cannot be carried");
                self.error(&field.key("grab"), "no-detector", &message, "give it carry = {}");
            }
            if keys.from_afar != Some(true) {
                return Some(Input::Grab { who, what });
            }
            Action::Grab { what, to: who }
        } else if let Some(velocity) = keys.throw {
            Action::Throw(Throw { what: who, velocity, spin: 0.0 })
        } else if keys.drop.is_some() {
            Action::Drop(who)
        } else if keys.jump.is_some() {
            Action::Jump(who)
        } else {
            Action::Halt(who)
        }))
    }

    /// A detector that is made to fire by hand.
    fn poke(&mut self, keys: &TapeKeys, name: &str, who: EntityId, field: &Field) -> Option<Input> {
        let on = self.entity(name, &field.key("poke"))?;
        let event = if let Some(word) = &keys.event {
            let field = field.key("event");
            let event = self.event_kind(word, &field)?;
            self.detects(on, event, &field);
            event
        } else {
            let opens = |sort: Detector| sort.opens().filter(|_| self.scene.has(on, sort));
            let Some(event) = Detector::ALL.into_iter().find_map(opens) else {
                let message = format!("`{name}` has no detector to fire");
                let help = "name an entity with a zone or another detector";
                self.error(&field.key("poke"), "no-detector", &message, help);
                return None;
            };
            event
        };
        Some(Input::Act(Action::Send { event, on, who: Some(who) }))
    }

    fn must_walk(&mut self, (who, name): (EntityId, &str), field: &Field) {
        if self.scene.walking_speed(who).is_none() {
            let message = format!("`{name}` cannot walk");
            let help = "give its body a walk = speed, or use drive_to or place_at";
            self.error(field, "cannot-walk", &message, help);
        }
    }

    /// How long something takes that must be told.
    fn over(&mut self, keys: &TapeKeys, verb: &str, field: &Field) -> Option<Time> {
        let Some(over) = keys.over else {
            let message = format!("`{verb}` needs to know how long it takes");
            self.error(field, "missing-key", &message, "add `over = seconds`");
            return None;
        };
        Some(self.seconds(over, &field.key("over")))
    }

    fn movement(
        &mut self,
        keys: &TapeKeys,
        (who, name): (EntityId, &str),
        (verb, to): (&str, Target),
        at: Time,
        field: &Field,
    ) -> Option<Input> {
        Some(match verb {
            "walk_to" => {
                self.must_walk((who, name), &field.key("walk_to"));
                Input::Walk { who, to }
            }
            "walk_straight" => {
                self.must_walk((who, name), &field.key("walk_straight"));
                Input::WalkStraight { who, to }
            }
            "drive_to" => {
                let until = at + self.over(keys, "drive_to", field)?;
                Input::Drive { who, to, until }
            }
            "place_at" => Input::Place { who, at: to },
            _ => Input::Face { who, to },
        })
    }
}
