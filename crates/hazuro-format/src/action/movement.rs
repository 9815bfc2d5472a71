//! Actions that move or turn something, with all that goes with them.

use hazuro::motion::Easing;
use hazuro::scene::{
    Action, Aim, Choose, Destination, Lead, Move, Pace, Quantity, Teleport, Throw, Turn,
};

use crate::code::Code;
use crate::keys::one_or_many::Names;
use crate::keys::quantity::{QuantityKeys, axes, degrees};
use crate::read::words::word;

use super::reader::Reader;
use super::{ActionKeys, ByKeys, none};

/// A degree in radians.
const DEGREE: f64 = std::f64::consts::PI / 180.0;

/// The pace of a turn that says nothing of it.
const AT_ONCE: Pace<Quantity> = Pace::Over(Quantity::Fixed(0.0));

impl Reader<'_> {
    /// The parts of a `move`.
    pub(super) fn movement(&mut self, what: String) -> Option<Move> {
        let keys = self.keys;
        Some(Move {
            what,
            to: self.destination()?,
            axis: match &keys.axis {
                Some(axis) => Some(self.axis(axis)?),
                None => None,
            },
            over: self.quantity_or("over", keys.over.as_ref(), 0.0)?,
            ease: self.ease()?,
        })
    }

    fn destination(&mut self) -> Option<Destination> {
        match (&self.keys.to, &self.keys.by) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("by", Code::NoPartner, "`to` and `by` are two destinations", help);
                None
            }
            (None, Some(ByKeys::Way(way))) => self.way("by", way).map(Destination::By),
            (None, Some(ByKeys::Amount(_))) => {
                let help = "as in by = [0, 1.5, 0]";
                self.error("by", Code::BadValue, "with `move`, `by` is a way [x, y, z]", help);
                None
            }
            (_, None) => match self.to()?.as_str() {
                "home" => Some(Destination::Home),
                "point" => Some(Destination::Point),
                name => Some(Destination::Entity(name.into())),
            },
        }
    }

    /// The line along which something moves.
    fn axis(&mut self, axis: &[QuantityKeys; 3]) -> Option<[Quantity; 3]> {
        let axis = self.way("axis", axis)?;
        if axis.iter().all(|along| along.fixed() == Some(0.0)) {
            let help = "as in axis = [1, 0, 0]";
            self.error("axis", Code::BadValue, "a line needs a direction", help);
            return None;
        }
        Some(axis)
    }

    pub(super) fn teleport(&mut self, what: String) -> Option<Action> {
        let keys = self.keys;
        let Some(to) = &keys.to else {
            self.without_to();
            return None;
        };
        let (first, rest) = match to.all() {
            [] => {
                self.error("to", Code::MissingKey, "`to` names nothing", "name a place");
                return None;
            }
            [first, rest @ ..] => (first, rest),
        };
        let mut teleport = Action::teleport(what, first);
        teleport.to.extend(rest.iter().cloned());
        if let Some(given) = &keys.choose {
            teleport.choose = match word(given, Choose::ALL, Choose::word) {
                Ok(choose) => choose,
                Err(help) => {
                    let message = format!("`{given}` is no way to choose");
                    self.error("choose", Code::BadValue, &message, help);
                    return None;
                }
            };
        }
        for kept in keys.keep.iter().flat_map(Names::all) {
            match kept.as_str() {
                "facing" => teleport.keep_facing = true,
                "speed" => teleport.keep_speed = true,
                "offset" => teleport.keep_offset = true,
                other => {
                    let help = "it keeps any of facing, speed, offset";
                    let message = format!("a teleport does not keep `{other}`");
                    self.error("keep", Code::BadValue, &message, help);
                    return None;
                }
            }
        }
        (teleport.free, teleport.stand) =
            (keys.free.unwrap_or_default(), keys.stand.unwrap_or_default());
        Some(teleport.into())
    }

    pub(super) fn lead(&mut self, what: String) -> Option<Action> {
        let keys = self.keys;
        let Some(through) = &keys.through else {
            let help = "as in { lead = \"who\", through = [\"ladder_top\"], rate = 1.5 }";
            self.error("", Code::MissingKey, "the key `through` is missing here", help);
            return None;
        };
        let lead = Action::lead(what, through.clone()).ease(self.ease()?);
        let pace = self.pace(lead.pace.clone(), 1.0)?;
        Some(Lead { pace, ..lead }.into())
    }

    pub(super) fn turn(&mut self, what: String) -> Option<Action> {
        let (pace, ease) = (self.pace(AT_ONCE, DEGREE)?, self.ease()?);
        let Some(ByKeys::Amount(degrees)) = &self.keys.by else {
            let help = "as in { turn = \"weathercock\", by = 90 }";
            self.error("", Code::MissingKey, "`by` how many degrees is missing", help);
            return None;
        };
        let by = self.quantity("by", degrees)?.in_unit(DEGREE);
        Some(Turn { what, towards: None, by, pace, ease }.into())
    }

    pub(super) fn face(&mut self, what: String) -> Option<Action> {
        let towards = Some(self.to()?);
        let (pace, ease) = (self.pace(AT_ONCE, DEGREE)?, self.ease()?);
        Some(Turn { what, towards, by: 0.0.into(), pace, ease }.into())
    }

    /// How long it takes, or how fast it goes in a unit; as usual if neither is given.
    fn pace(&mut self, usual: Pace<Quantity>, unit: f64) -> Option<Pace<Quantity>> {
        let keys = self.keys;
        Some(match (&keys.over, &keys.rate) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("rate", Code::NoPartner, "`over` and `rate` say the same twice", help);
                return None;
            }
            (Some(seconds), None) => Pace::Over(self.quantity("over", seconds)?),
            (None, Some(speed)) => Pace::Rate(self.quantity("rate", speed)?.in_unit(unit)),
            (None, None) => usual,
        })
    }

    pub(super) fn aim(&mut self, what: String) -> Option<Action> {
        let keys = self.keys;
        let mut aim = Action::aim(what, self.to()?);
        if let Some(degrees) = &keys.rate {
            aim = aim.rate(self.quantity("rate", degrees)?.in_unit(DEGREE));
        }
        if let Some([least, most]) = &keys.pitch {
            let least = self.quantity("pitch", least)?.in_unit(DEGREE);
            aim = aim.pitch(least, self.quantity("pitch", most)?.in_unit(DEGREE));
        }
        Some(aim.into())
    }

    pub(super) fn throw(&mut self, what: String) -> Option<Action> {
        let keys = self.keys;
        let Some(speed) = &keys.speed else {
            let help = "as in { throw = \"who\", speed = [0, 3, -6] }";
            self.error("", Code::MissingKey, "the key `speed` is missing here", help);
            return None;
        };
        let spin = self.quantity_or("spin", keys.spin.as_ref(), 0.0)?;
        Some(Action::throw(what, self.way("speed", speed)?).spin(spin.in_unit(DEGREE)).into())
    }
}

/// The keys of a `move`.
pub(super) fn moved(Move { what, to, axis, over, ease }: Move) -> ActionKeys {
    let (to, by) = match to {
        Destination::Home => (Some("home".to_owned().into()), None),
        Destination::Point => (Some("point".to_owned().into()), None),
        Destination::Entity(name) => (Some(name.into()), None),
        Destination::By(way) => (None, Some(ByKeys::Way(axes(&way)))),
    };
    let (axis, over) = (axis.as_ref().map(axes), QuantityKeys::given(&over, |it| it));
    ActionKeys { moved: Some(what), to, by, axis, over, ease: eased(ease), ..none() }
}

/// The keys of a `teleport`.
pub(super) fn teleported(teleport: Teleport) -> ActionKeys {
    let Teleport { what, mut to, choose, .. } = teleport;
    let keep = [
        (teleport.keep_facing, "facing"),
        (teleport.keep_speed, "speed"),
        (teleport.keep_offset, "offset"),
    ];
    let keep: Vec<String> =
        keep.into_iter().filter(|(kept, _)| *kept).map(|(_, word)| word.to_owned()).collect();
    let to = if to.len() == 1 { to.remove(0).into() } else { Names::Many(to) };
    ActionKeys {
        teleport: Some(what),
        to: Some(to),
        choose: (choose != Choose::First).then(|| choose.word().into()),
        keep: (!keep.is_empty()).then_some(Names::Many(keep)),
        free: teleport.free.then_some(true),
        stand: teleport.stand.then_some(true),
        ..none()
    }
}

/// The keys of a `turn` or `face`.
pub(super) fn turned(Turn { what, towards, by, pace, ease }: Turn) -> ActionKeys {
    let (over, rate) = match pace {
        Pace::Over(over) => (QuantityKeys::given(&over, |it| it), None),
        Pace::Rate(rate) => (None, Some(QuantityKeys::of(&rate, degrees))),
    };
    let keys = ActionKeys { over, rate, ease: eased(ease), ..none() };
    if towards.is_some() {
        return ActionKeys { face: Some(what), to: towards.map(Into::into), ..keys };
    }
    let by = Some(ByKeys::Amount(QuantityKeys::of(&by, degrees)));
    ActionKeys { turn: Some(what), by, ..keys }
}

/// The keys of an `aim`.
pub(super) fn aimed(Aim { what, at, rate, pitch }: Aim) -> ActionKeys {
    let usual = Action::aim("", "");
    let rate = (rate != usual.rate).then(|| QuantityKeys::of(&rate, degrees));
    let pitch = (pitch != usual.pitch).then(|| pitch.map(|it| QuantityKeys::of(&it, degrees)));
    ActionKeys { aim: Some(what), to: Some(at.into()), rate, pitch, ..none() }
}

/// The keys of a `lead`.
pub(super) fn led(Lead { what, through, pace, ease }: Lead) -> ActionKeys {
    let (over, rate) = match pace {
        Pace::Over(over) => (Some(QuantityKeys::of(&over, |it| it)), None),
        Pace::Rate(rate) => (None, Some(QuantityKeys::of(&rate, |it| it))),
    };
    let (lead, through) = (Some(what), Some(through));
    ActionKeys { lead, through, over, rate, ease: eased(ease), ..none() }
}

/// The keys of a `throw`.
pub(super) fn thrown(Throw { what, velocity, spin }: Throw) -> ActionKeys {
    let (speed, spin) = (Some(axes(&velocity)), QuantityKeys::given(&spin, degrees));
    ActionKeys { throw: Some(what), speed, spin, ..none() }
}

fn eased(ease: Easing) -> Option<String> {
    (ease != Easing::Linear).then(|| ease.to_string())
}
