//! From the keys of an action to its description.

use hazuro::motion::Easing;
use hazuro::scene::{
    Action, Choose, Destination, EventKind, Formula, Move, Pace, Quantity, SlotSort, Switch, Turn,
    Wait, slot_reference,
};

use crate::cure::Cure;
use crate::keys::action::{ActionKeys, ByKeys, Verb};
use crate::keys::literal::Literal;
use crate::keys::one_or_many::Names;
use crate::keys::quantity::QuantityKeys;
use crate::language::BadExpression;

use crate::number::GrantKeys;
use crate::read::reader::Formulas;
use crate::read::words::word;

/// A degree in radians.
const DEGREE: f64 = std::f64::consts::PI / 180.0;

/// What is wrong with an action.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct BadAction {
    /// The key at which; empty for the whole action.
    pub key: &'static str,
    pub code: &'static str,
    pub message: String,
    pub help: Cure,
    /// The formula that cannot be used, if it is about one.
    pub formula: Option<Box<(String, BadExpression)>>,
}

/// Reads an action.
///
/// # Errors
/// Everything that is wrong with it: at least one thing.
pub(crate) fn read_action(
    keys: &ActionKeys,
    formulas: Formulas<'_>,
) -> Result<Action, Vec<BadAction>> {
    let mut reader = Reader { keys, formulas, bad: Vec::new() };
    let action = reader.action();
    match action {
        Some(action) if reader.bad.is_empty() => Ok(action),
        _ => Err(reader.bad),
    }
}

pub(super) struct Reader<'a> {
    pub(super) keys: &'a ActionKeys,
    pub(super) formulas: Formulas<'a>,
    bad: Vec<BadAction>,
}

impl Reader<'_> {
    pub(super) fn error(
        &mut self,
        key: &'static str,
        code: &'static str,
        message: &str,
        help: impl Into<Cure>,
    ) {
        let (message, help) = (message.to_owned(), help.into());
        self.bad.push(BadAction { key, code, message, help, formula: None });
    }

    fn action(&mut self) -> Option<Action> {
        let given = self.keys.verbs();
        let [verb] = given.as_slice() else {
            let message =
                if given.is_empty() { "no action is named here" } else { "one action too many" };
            let verbs: Vec<&str> = Verb::ALL.iter().map(|verb| verb.word()).collect();
            let help = format!("give each action its own {{ ... }}: {}", verbs.join(", "));
            self.error("", "one-action", message, help);
            return None;
        };
        self.partners(*verb);
        self.read(*verb, self.keys.what(*verb))
    }

    /// Whether every key goes with the verb.
    fn partners(&mut self, verb: Verb) {
        for (key, there) in self.keys.partners() {
            if there && !verb.partners().contains(&key) {
                let takers = Verb::ALL.iter().filter(|verb| verb.partners().contains(&key));
                let takers: Vec<&str> = takers.map(|verb| verb.word()).collect();
                let message = format!("`{key}` does not go with `{}`", verb.word());
                let help = format!("it goes with {}", takers.join(" and "));
                self.error(key, "no-partner", &message, help);
            }
        }
    }

    fn read(&mut self, verb: Verb, what: String) -> Option<Action> {
        let keys = self.keys;
        let of = keys.of.clone();
        Some(match verb {
            Verb::Move => Action::Move(Move {
                what,
                to: self.destination()?,
                axis: match &keys.axis {
                    Some(axis) => Some(self.axis(axis)?),
                    None => None,
                },
                over: self.quantity_or("over", keys.over.as_ref(), 0.0)?,
                ease: self.ease()?,
            }),
            Verb::Teleport => self.teleport(what)?,
            Verb::Walk => Action::walk(what, self.to()?),
            Verb::Halt => Action::halt(what),
            Verb::Jump => Action::jump(what),
            Verb::Run => Action::run(what),
            Verb::Reverse => Action::reverse(what),
            Verb::Lead => self.lead(what)?,
            Verb::Grab => Action::grab(what, self.to()?),
            Verb::Own => Action::own(what, self.to()?),
            Verb::Disown => Action::disown(what),
            Verb::Drop => Action::drop(what),
            Verb::Throw => {
                let Some(speed) = &keys.speed else {
                    let help = "as in { throw = \"who\", speed = [0, 3, -6] }";
                    self.error("", "missing-key", "the key `speed` is missing here", help);
                    return None;
                };
                let spin = self.quantity_or("spin", keys.spin.as_ref(), 0.0)?;
                Action::throw(what, self.way("speed", speed)?).spin(spin.in_unit(DEGREE)).into()
            }
            Verb::Turn | Verb::Face => self.turn(verb, what)?,
            Verb::Aim => self.aim(what)?,
            Verb::Enable => Action::enable(what),
            Verb::Disable => Action::disable(what),
            Verb::Toggle => Action::toggle(what),
            Verb::Show => Action::show(what),
            Verb::Hide => Action::hide(what),
            Verb::Solid => self.switch(what, Switch::Solid)?,
            Verb::Detect => self.switch(what, Switch::Detect)?,
            Verb::Tag => Action::tag(what, self.needed("with", keys.with.as_ref())?),
            Verb::Untag => Action::untag(what, self.needed("with", keys.with.as_ref())?),
            Verb::Count => Action::Count { name: what, of, change: self.whole()? },
            Verb::Flag => Action::Flag { name: what, of, to: self.setting()? },
            Verb::Fill => {
                let with = self.filling(&what)?;
                Action::fill(self.needed("of", keys.of.as_ref())?, what, with)
            }
            Verb::Unfill => Action::unfill(self.needed("of", keys.of.as_ref())?, what),
            Verb::Stat => {
                let of = self.needed("of", keys.of.as_ref())?;
                Action::stat(of, what, self.number()?)
            }
            Verb::Hurt | Verb::Heal => {
                let Some(ByKeys::Amount(by)) = &keys.by else {
                    let help = format!("as in {{ {} = \"who\", by = 5 }}", verb.word());
                    self.error("by", "missing-key", "`by` how much is missing", help);
                    return None;
                };
                let by = self.quantity("by", by)?;
                if verb == Verb::Hurt { Action::hurt(what, by) } else { Action::heal(what, by) }
            }
            Verb::Effect => Action::effect(what, self.needed("of", keys.of.as_ref())?),
            Verb::EndEffect => Action::end_effect(what, self.needed("of", keys.of.as_ref())?),
            Verb::Grant => {
                let grant = keys.grant.as_ref().map(GrantKeys::grant).unwrap_or_default();
                Action::grant(grant, self.to()?)
            }
            Verb::Collect => Action::collect(what, self.to()?),
            Verb::Say => {
                let to = if keys.to.is_some() { Some(self.to()?) } else { None };
                Action::Say { key: what, to }
            }
            Verb::Cue => Action::Cue { name: what, on: keys.on.clone(), who: keys.who.clone() },
            Verb::Send => self.send(&what)?,
            Verb::Spawn => Action::spawn(what, self.needed("at", keys.at.as_ref())?),
            Verb::Remove => Action::Remove(what),
            Verb::Reset => Action::Reset(what),
            Verb::Attach => Action::attach(what, self.to()?),
            Verb::Detach => Action::Detach(what),
            Verb::Call => Action::Call(what),
            Verb::Stop => Action::Stop { name: what, of },
            Verb::Wait => self.wait()?,
        })
    }

    fn send(&mut self, word: &str) -> Option<Action> {
        let Some(event) = EventKind::from_word(word) else {
            let words = EventKind::ALL.iter().map(|kind| kind.word());
            let help = Cure::nearest(word, words, || {
                "as in { send = \"enter\", on = \"pad\", who = \"who\" }".into()
            });
            let message = format!("there is no event `{word}`");
            self.error("send", "unknown-name", &message, help);
            return None;
        };
        let on = self.needed("on", self.keys.on.as_ref())?;
        Some(Action::Send { event, on, who: self.keys.who.clone() })
    }

    fn wait(&mut self) -> Option<Action> {
        Some(Action::Wait(match &self.keys.wait {
            Some(Literal::Whole(seconds)) => Wait::Seconds((*seconds as f64).into()),
            Some(Literal::Number(seconds)) => Wait::Seconds((*seconds).into()),
            Some(Literal::Text(text)) if self.is_seconds(text) => {
                Wait::Seconds(self.formula("wait", text)?.into())
            }
            Some(Literal::Text(name)) => Wait::Arrival(name.clone()),
            _ => {
                let message = "`wait` takes seconds, or the name of what is to arrive";
                self.error("wait", "bad-value", message, "as in { wait = 2.0 }");
                return None;
            }
        }))
    }

    pub(super) fn needed(&mut self, key: &'static str, value: Option<&String>) -> Option<String> {
        if value.is_none() {
            let message = format!("the key `{key}` is missing here");
            let help = match key {
                "to" => "add `to = \"...\"`: the entity meant, or with `move` also \"home\"",
                "of" => "add `of = \"who\"`, or whose it is",
                "with" => "add `with = \"...\"`: the tag",
                "on" => "add `on = \"...\"`: the detector whose event it is",
                _ => "add `at = \"...\"`: the entity whose place it takes",
            };
            self.error("", "missing-key", &message, help);
        }
        value.cloned()
    }

    /// The one entity that `to` names.
    pub(super) fn to(&mut self) -> Option<String> {
        match &self.keys.to {
            Some(Names::Many(names)) => {
                if let [one] = names.as_slice() {
                    return Some(one.clone());
                }
                let help = "only `teleport` chooses among several";
                self.error("to", "only-one", "`to` is one entity here", help);
                None
            }
            Some(Names::One(name)) => Some(name.clone()),
            None => self.needed("to", None),
        }
    }

    fn teleport(&mut self, what: String) -> Option<Action> {
        let keys = self.keys;
        let Some(to) = &keys.to else {
            self.needed("to", None);
            return None;
        };
        let (first, rest) = match to.all() {
            [] => {
                self.error("to", "missing-key", "`to` names nothing", "name a place");
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
                    self.error("choose", "bad-value", &message, help);
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
                    self.error("keep", "bad-value", &message, help);
                    return None;
                }
            }
        }
        (teleport.free, teleport.stand) =
            (keys.free.unwrap_or_default(), keys.stand.unwrap_or_default());
        Some(teleport.into())
    }

    fn lead(&mut self, what: String) -> Option<Action> {
        let keys = self.keys;
        let Some(through) = &keys.through else {
            let help = "as in { lead = \"who\", through = [\"ladder_top\"], rate = 1.5 }";
            self.error("", "missing-key", "the key `through` is missing here", help);
            return None;
        };
        let lead = Action::lead(what, through.clone()).ease(self.ease()?);
        Some(match (&keys.over, &keys.rate) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("rate", "no-partner", "`over` and `rate` say the same twice", help);
                return None;
            }
            (Some(seconds), None) => lead.over(self.quantity("over", seconds)?).into(),
            (None, Some(speed)) => lead.rate(self.quantity("rate", speed)?).into(),
            (None, None) => lead.into(),
        })
    }

    fn destination(&mut self) -> Option<Destination> {
        match (&self.keys.to, &self.keys.by) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("by", "no-partner", "`to` and `by` are two destinations", help);
                None
            }
            (None, Some(ByKeys::Way(way))) => self.way("by", way).map(Destination::By),
            (None, Some(ByKeys::Amount(_))) => {
                let help = "as in by = [0, 1.5, 0]";
                self.error("by", "bad-value", "with `move`, `by` is a way [x, y, z]", help);
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
            self.error("axis", "bad-value", "a line needs a direction", help);
            return None;
        }
        Some(axis)
    }

    fn turn(&mut self, verb: Verb, what: String) -> Option<Action> {
        let keys = self.keys;
        let pace = match (&keys.over, &keys.rate) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("rate", "no-partner", "`over` and `rate` say the same twice", help);
                return None;
            }
            (None, Some(degrees)) => Pace::Rate(self.quantity("rate", degrees)?.in_unit(DEGREE)),
            (over, None) => Pace::Over(self.quantity_or("over", over.as_ref(), 0.0)?),
        };
        let (towards, by) = match (verb, &keys.by) {
            (Verb::Face, _) => (Some(self.to()?), 0.0.into()),
            (_, Some(ByKeys::Amount(degrees))) => {
                (None, self.quantity("by", degrees)?.in_unit(DEGREE))
            }
            _ => {
                let help = "as in { turn = \"weathercock\", by = 90 }";
                self.error("", "missing-key", "`by` how many degrees is missing", help);
                return None;
            }
        };
        Some(Action::Turn(Turn { what, towards, by, pace, ease: self.ease()? }))
    }

    fn aim(&mut self, what: String) -> Option<Action> {
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

    fn switch(&mut self, what: String, switch: Switch) -> Option<Action> {
        Some(Action::Switch { what, switch, to: self.setting()? })
    }

    pub(super) fn formula(&mut self, key: &'static str, text: &str) -> Option<Formula> {
        let Formulas { language, known } = self.formulas;
        let bad = match language.formula(text, known) {
            Ok(formula) => return Some(formula),
            Err(bad) => bad,
        };
        let message = format!("`{key}`: {}", bad.message);
        let help = bad.help.clone().unwrap_or_else(|| "give a number".into());
        let formula = Some(Box::new((text.to_owned(), bad)));
        self.bad.push(BadAction { key, code: "bad-expression", message, help, formula });
        None
    }

    fn quantity(&mut self, key: &'static str, keys: &QuantityKeys) -> Option<Quantity> {
        match keys {
            QuantityKeys::Number(number) => Some((*number).into()),
            QuantityKeys::Formula(text) => self.formula(key, text).map(Into::into),
        }
    }

    fn quantity_or(
        &mut self,
        key: &'static str,
        keys: Option<&QuantityKeys>,
        usual: f64,
    ) -> Option<Quantity> {
        keys.map_or(Some(usual.into()), |keys| self.quantity(key, keys))
    }

    /// A way along three axes.
    fn way(&mut self, key: &'static str, [x, y, z]: &[QuantityKeys; 3]) -> Option<[Quantity; 3]> {
        let [x, y, z] = [x, y, z].map(|along| self.quantity(key, along));
        Some([x?, y?, z?])
    }

    /// Whether a `wait` says how long: by a formula, or by a slot that holds a number; and not whose
    /// arrival it waits for.
    fn is_seconds(&self, text: &str) -> bool {
        let Formulas { language, known } = self.formulas;
        let is_name = |text: &str| !text.contains(|letter| "+*/%()<>!?".contains(letter));
        let reference = slot_reference(text);
        if let Some((whose, slot)) = reference.filter(|(whose, it)| is_name(whose) && is_name(it)) {
            let sorts = known.slots.get(slot).map_or(&[][..], Vec::as_slice);
            let holds = |sort| sorts.contains(&sort);
            let is_number = holds(SlotSort::Number) && !holds(SlotSort::Entity);
            return is_number && ["who", "on"].contains(&whose);
        }
        let asks = ["who.", "on.", "count.", "flag."];
        !is_name(text)
            || asks.iter().any(|start| text.starts_with(start))
            || (!["who", "on"].contains(&text) && language.formula(text, known).is_ok())
    }

    fn ease(&mut self) -> Option<Easing> {
        match self.keys.ease.as_deref().unwrap_or("linear").parse() {
            Ok(ease) => Some(ease),
            Err(error) => {
                let error: hazuro::motion::EasingError = error;
                let help = "as in ease = \"ease-in-out\"";
                self.error("ease", "bad-easing", &error.to_string(), help);
                None
            }
        }
    }
}
