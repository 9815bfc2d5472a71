//! Reading an entry of a tape.

use hazuro::scene::{Action, Detector, Fault, Field, Switch, Throw};
use hazuro::{Button, EntityId, Input, Spot, Target, Time};
use hazuro_format::Code;

use super::deeds::{Deed, PlaceKeys, SpotKeys, TapeKeys};
use super::reader::Reader;

impl Reader<'_> {
    /// A place, or where an entity is.
    pub(crate) fn place(&mut self, place: &PlaceKeys, field: &Field) -> Option<Target> {
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
        let &[deed] = keys.chosen().as_slice() else {
            let message = "an entry of a tape does one thing";
            let all: Vec<&str> = Deed::ALL.iter().map(|deed| deed.word()).collect();
            self.error(
                field,
                Code::OneAction,
                message,
                &format!("give one of: {}", all.join(", ")),
            );
            return None;
        };
        for (key, with) in keys.strays(deed) {
            self.stray(field, (key, &with), "leave it out");
        }
        let who = match &keys.who {
            Some(name) => Some((self.entity(name, &field.key("who"))?, name.as_str())),
            None if is_by_nobody(deed) => None,
            None => {
                let message = "the key `who` is missing here";
                self.error(field, Code::MissingKey, message, "say who does it");
                return None;
            }
        };
        let input = self.input(keys, deed, who, at, field)?;
        if let Err(fault) = input.check(self.scene) {
            let key = match fault {
                Fault::NoPlayer { .. } => "who",
                _ if keys.near.is_some() => "near",
                _ => deed.word(),
            };
            self.fault(&field.key(key), &fault);
        }
        let mut inputs = vec![(at, input)];
        if let (Deed::Hold, Some(key), Some((who, _))) = (deed, &keys.hold, who) {
            let over = self.over(keys, deed, field)?;
            inputs.push((at + over, Input::Release { who, key: key.clone() }));
        }
        Some(inputs)
    }

    /// What is done first in an entry that does one thing. `who` is there if the deed needs somebody.
    fn input(
        &mut self,
        keys: &TapeKeys,
        deed: Deed,
        who: Option<(EntityId, &str)>,
        at: Time,
        field: &Field,
    ) -> Option<Input> {
        let of = &field.key(deed.word());
        Some(match deed {
            Deed::Cue => {
                let (name, who) = (keys.cue.clone()?, who.map(|(who, _)| who));
                Input::Act(Action::Cue { name, on: None, who })
            }
            Deed::Enable => self.switch(keys.enable.as_ref()?, true, of)?,
            Deed::Disable => self.switch(keys.disable.as_ref()?, false, of)?,
            Deed::Disown => {
                let what = self.able(keys.disown.as_ref()?, Detector::Ownership, of)?;
                Input::Act(Action::Disown(what))
            }
            Deed::Own => {
                let what = self.able(keys.own.as_ref()?, Detector::Ownership, of)?;
                Input::Act(Action::Own { what, to: who?.0 })
            }
            Deed::Leave => Input::Remove(self.meant(deed, keys.leave?, who?, of)),
            Deed::Join => Input::Add { what: self.meant(deed, keys.join?, who?, of), at: None },
            Deed::WalkTo => Input::Walk {
                who: self.walker(who?, of),
                to: self.place(keys.walk_to.as_ref()?, of)?,
            },
            Deed::WalkStraight => Input::WalkStraight {
                who: self.walker(who?, of),
                to: self.place(keys.walk_straight.as_ref()?, of)?,
            },
            Deed::WalkAlong => {
                let who = self.walker(who?, of);
                let places = keys.walk_along.as_ref()?.iter().enumerate();
                let places: Vec<Option<Target>> =
                    places.map(|(index, place)| self.place(place, &of.item(index))).collect();
                Input::WalkAlong { who, through: places.into_iter().collect::<Option<_>>()? }
            }
            Deed::Follow => Input::Follow {
                who: self.walker(who?, of),
                whom: self.entity(keys.follow.as_ref()?, of)?,
                near: keys.near.unwrap_or(1.0),
            },
            Deed::Halt => {
                let who = (self.meant(deed, keys.halt?, who?, of), who?.1);
                Input::Act(Action::Halt(self.walker(who, of)))
            }
            Deed::Jump => {
                let who = (self.meant(deed, keys.jump?, who?, of), who?.1);
                Input::Act(Action::Jump(self.jumper(who, of)))
            }
            Deed::Drop => Input::Act(Action::Drop(self.meant(deed, keys.drop?, who?, of))),
            Deed::Throw => {
                let velocity = keys.throw?;
                Input::Act(Action::Throw(Throw { what: who?.0, velocity, spin: 0.0 }))
            }
            Deed::Grab => {
                let (what, to) = (self.able(keys.grab.as_ref()?, Detector::Carry, of)?, who?.0);
                if keys.from_afar == Some(true) {
                    Input::Act(Action::Grab { what, to })
                } else {
                    Input::Grab { who: to, what }
                }
            }
            Deed::DriveTo => Input::Drive {
                who: who?.0,
                to: self.place(keys.drive_to.as_ref()?, of)?,
                until: at + self.over(keys, deed, field)?,
            },
            Deed::PlaceAt => {
                Input::Place { who: who?.0, at: self.place(keys.place_at.as_ref()?, of)? }
            }
            Deed::Face => Input::Face { who: who?.0, to: self.place(keys.face.as_ref()?, of)? },
            Deed::Poke => self.poke(keys, keys.poke.as_ref()?, who?.0, field)?,
            Deed::Press => Input::Press { who: who?.0, key: keys.press.clone()? },
            Deed::Release => Input::Release { who: who?.0, key: keys.release.clone()? },
            Deed::Hold => Input::Press { who: who?.0, key: keys.hold.clone()? },
            Deed::Interact => self.interaction(keys.interact.as_ref()?, who?.0, of)?,
            Deed::Pointer => self.point(keys.pointer.as_ref()?, Button::Stays, who?, of)?,
            Deed::PointerDown => self.point(keys.pointer_down.as_ref()?, Button::Down, who?, of)?,
            Deed::PointerUp => self.point(keys.pointer_up.as_ref()?, Button::Up, who?, of)?,
            Deed::Click => self.point(keys.click.as_ref()?, Button::Click, who?, of)?,
        })
    }

    /// Whoever does what is only said to be done; it must be said with `true`.
    fn meant(
        &mut self,
        deed: Deed,
        said: bool,
        (who, _): (EntityId, &str),
        field: &Field,
    ) -> EntityId {
        if !said {
            let message = format!("`{} = false` does nothing", deed.word());
            self.error(field, Code::BadValue, &message, "leave it out");
        }
        who
    }

    fn switch(&mut self, name: &str, on: bool, field: &Field) -> Option<Input> {
        let what = self.entity(name, field)?;
        Some(Input::Act(Action::Switch { what, switch: Switch::Enabled, to: Some(on) }))
    }

    /// An entity that must have what a deed needs.
    fn able(&mut self, name: &str, detector: Detector, field: &Field) -> Option<EntityId> {
        let what = self.entity(name, field)?;
        if !self.scene.has(what, detector) {
            let (message, help) = match detector {
                Detector::Carry => (format!("`{name}` cannot be carried"), "give it carry = {}"),
                _ => (format!("`{name}` belongs to nobody ever"), "give it ownership = {}"),
            };
            self.error(field, Code::NoDetector, &message, help);
        }
        Some(what)
    }

    fn interaction(&mut self, name: &str, who: EntityId, field: &Field) -> Option<Input> {
        let with = self.entity(name, field)?;
        if !self.scene.has(with, Detector::Prompt) {
            let message = format!("`{name}` cannot be used");
            self.error(field, Code::NoDetector, &message, "give it a `prompt` or `interact`");
        }
        Some(Input::Interact { who, with })
    }

    fn point(
        &mut self,
        spot: &SpotKeys,
        button: Button,
        (who, name): (EntityId, &str),
        field: &Field,
    ) -> Option<Input> {
        if self.scene.camera_of(who).is_none() {
            let message = format!("`{name}` has no camera to point through");
            let help = "add an entity with camera = {}, as its child or on its own";
            self.error(field, Code::NoCamera, &message, help);
        }
        Some(Input::Point { who, at: self.spot(spot, field)?, button })
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
                self.error(&field.key("poke"), Code::NoDetector, &message, help);
                return None;
            };
            event
        };
        Some(Input::Act(Action::Send { event, on, who: Some(who) }))
    }

    /// Whoever must be able to walk.
    fn walker(&mut self, (who, name): (EntityId, &str), field: &Field) -> EntityId {
        if self.scene.walking_speed(who).is_none() {
            let message = format!("`{name}` cannot walk");
            let help = "give its body a walk = speed, or use drive_to or place_at";
            self.error(field, Code::CannotWalk, &message, help);
        }
        who
    }

    /// Whoever must be able to jump.
    fn jumper(&mut self, who: (EntityId, &str), field: &Field) -> EntityId {
        let (id, name) = (self.walker(who, field), who.1);
        if self.scene.jump_height(id) == Some(0.0) {
            let message = format!("`{name}` cannot jump");
            let help = "give its body a jump = height, in metres";
            self.error(field, Code::CannotJump, &message, help);
        }
        id
    }

    /// How long something takes that must be told.
    fn over(&mut self, keys: &TapeKeys, deed: Deed, field: &Field) -> Option<Time> {
        let Some(over) = keys.over else {
            let message = format!("`{}` needs to know how long it takes", deed.word());
            self.error(field, Code::MissingKey, &message, "add `over = seconds`");
            return None;
        };
        Some(self.seconds(over, &field.key("over")))
    }
}

/// Whether nobody needs to be named who does it.
fn is_by_nobody(deed: Deed) -> bool {
    matches!(deed, Deed::Cue | Deed::Enable | Deed::Disable | Deed::Disown)
}
