//! From the keys of an action to its description.

use hazuro::motion::Easing;
use hazuro::scene::{
    Action, Change, Choose, Destination, EventKind, HEALTH, Move, Pace, Switch, Turn, Wait, nearest,
};

use crate::keys::literal::Literal;
use crate::keys::one_or_many::Names;
use crate::keys::reaction::{ActionKeys, ByKeys};
use crate::number::GrantKeys;
use crate::read::words::word;

/// What is wrong with an action.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct BadAction {
    /// The key at which; empty for the whole action.
    pub key: &'static str,
    pub code: &'static str,
    pub message: String,
    pub help: String,
}

/// The verbs of actions, and the keys that go with each beside its own.
const VERBS: [(&str, &[&str]); 38] = [
    ("move", &["to", "by", "over", "ease"]),
    ("teleport", &["to", "choose", "keep", "free", "stand"]),
    ("turn", &["by", "over", "rate", "ease"]),
    ("face", &["to", "over", "rate", "ease"]),
    ("enable", &[]),
    ("disable", &[]),
    ("toggle", &[]),
    ("show", &[]),
    ("hide", &[]),
    ("solid", &["set"]),
    ("detect", &["set"]),
    ("tag", &["with"]),
    ("untag", &["with"]),
    ("count", &["add", "set", "of"]),
    ("flag", &["set", "of"]),
    ("stat", &["add", "set", "of"]),
    ("hurt", &["by"]),
    ("heal", &["by"]),
    ("effect", &["of"]),
    ("end_effect", &["of"]),
    ("collect", &["to"]),
    ("say", &[]),
    ("cue", &[]),
    ("send", &["on", "who"]),
    ("spawn", &["at"]),
    ("remove", &[]),
    ("reset", &[]),
    ("attach", &["to"]),
    ("detach", &[]),
    ("walk", &["to"]),
    ("halt", &[]),
    ("jump", &[]),
    ("run", &[]),
    ("reverse", &[]),
    ("lead", &["through", "over", "rate", "ease"]),
    ("grab", &["to"]),
    ("drop", &[]),
    ("throw", &["speed", "spin"]),
];

/// Reads an action.
///
/// # Errors
/// Everything that is wrong with it: at least one thing.
pub(crate) fn read_action(keys: &ActionKeys) -> Result<Action, Vec<BadAction>> {
    let mut reader = Reader { keys, bad: Vec::new() };
    let action = reader.action();
    match action {
        Some(action) if reader.bad.is_empty() => Ok(action),
        _ => Err(reader.bad),
    }
}

struct Reader<'a> {
    keys: &'a ActionKeys,
    bad: Vec<BadAction>,
}

impl Reader<'_> {
    fn error(&mut self, key: &'static str, code: &'static str, message: &str, help: &str) {
        let (message, help) = (message.to_owned(), help.to_owned());
        self.bad.push(BadAction { key, code, message, help });
    }

    /// The verbs given, each with what it says.
    fn given(&self) -> Vec<(&'static str, String)> {
        let keys = self.keys;
        let own = [
            &keys.moved,
            &keys.teleport,
            &keys.turn,
            &keys.face,
            &keys.enable,
            &keys.disable,
            &keys.toggle,
            &keys.show,
            &keys.hide,
            &keys.solid,
            &keys.detect,
            &keys.tag,
            &keys.untag,
            &keys.count,
            &keys.flag,
            &keys.stat,
            &keys.hurt,
            &keys.heal,
            &keys.effect,
            &keys.end_effect,
            &keys.collect,
            &keys.say,
            &keys.cue,
            &keys.send,
            &keys.spawn,
            &keys.remove,
            &keys.reset,
            &keys.attach,
            &keys.detach,
            &keys.walk,
            &keys.halt,
            &keys.jump,
            &keys.run,
            &keys.reverse,
            &keys.lead,
            &keys.grab,
            &keys.drop,
            &keys.throw,
        ];
        let verbs = VERBS.iter().zip(own);
        let verbs = verbs.filter_map(|((verb, _), value)| Some((*verb, value.clone()?)));
        let more = [("call", &keys.call), ("stop", &keys.stop)];
        let more = more.into_iter().filter_map(|(verb, value)| Some((verb, value.clone()?)));
        let grant = keys.grant.as_ref().map(|_| ("grant", String::new()));
        let wait = keys.wait.as_ref().map(|_| ("wait", String::new()));
        verbs.chain(more).chain(grant).chain(wait).collect()
    }

    fn action(&mut self) -> Option<Action> {
        let given = self.given();
        let [(verb, value)] = given.as_slice() else {
            let message =
                if given.is_empty() { "no action is named here" } else { "one action too many" };
            let verbs: Vec<&str> = VERBS.iter().map(|(verb, _)| *verb).collect();
            let help = format!(
                "give each action its own {{ ... }}: {}, grant, call, stop or wait",
                verbs.join(", ")
            );
            self.error("", "one-action", message, &help);
            return None;
        };
        self.partners(verb);
        self.read(verb, value.clone())
    }

    /// Whether every key goes with the verb.
    fn partners(&mut self, verb: &str) {
        let keys = self.keys;
        let takes = |verb: &str| match verb {
            "grant" => &["to"][..],
            "stop" => &["of"],
            verb => VERBS.iter().find(|(other, _)| *other == verb).map_or(&[][..], |found| found.1),
        };
        for (key, there) in [
            ("to", keys.to.is_some()),
            ("by", keys.by.is_some()),
            ("over", keys.over.is_some()),
            ("rate", keys.rate.is_some()),
            ("ease", keys.ease.is_some()),
            ("with", keys.with.is_some()),
            ("add", keys.add.is_some()),
            ("set", keys.set.is_some()),
            ("of", keys.of.is_some()),
            ("on", keys.on.is_some()),
            ("who", keys.who.is_some()),
            ("at", keys.at.is_some()),
            ("choose", keys.choose.is_some()),
            ("keep", keys.keep.is_some()),
            ("free", keys.free.is_some()),
            ("stand", keys.stand.is_some()),
            ("through", keys.through.is_some()),
            ("speed", keys.speed.is_some()),
            ("spin", keys.spin.is_some()),
        ] {
            if there && !takes(verb).contains(&key) {
                let all = VERBS.iter().map(|(verb, _)| *verb).chain(["grant", "stop"]);
                let verbs: Vec<&str> = all.filter(|verb| takes(verb).contains(&key)).collect();
                let message = format!("`{key}` does not go with `{verb}`");
                let help = format!("it goes with {}", verbs.join(" and "));
                self.error(key, "no-partner", &message, &help);
            }
        }
    }

    fn read(&mut self, verb: &str, what: String) -> Option<Action> {
        let keys = self.keys;
        let of = keys.of.clone();
        Some(match verb {
            "move" => Action::Move(Move {
                what,
                to: self.destination()?,
                over: keys.over.unwrap_or_default(),
                ease: self.ease()?,
            }),
            "teleport" => self.teleport(what)?,
            "walk" => Action::walk(what, self.to()?),
            "halt" => Action::halt(what),
            "jump" => Action::jump(what),
            "run" => Action::run(what),
            "reverse" => Action::reverse(what),
            "lead" => self.lead(what)?,
            "grab" => Action::grab(what, self.to()?),
            "drop" => Action::drop(what),
            "throw" => {
                let Some(velocity) = keys.speed else {
                    let help = "as in { throw = \"who\", speed = [0, 3, -6] }";
                    self.error("", "missing-key", "the key `speed` is missing here", help);
                    return None;
                };
                Action::throw(what, velocity).spin(keys.spin.unwrap_or(0.0).to_radians()).into()
            }
            "turn" | "face" => self.turn(verb, what)?,
            "enable" => Action::enable(what),
            "disable" => Action::disable(what),
            "toggle" => Action::toggle(what),
            "show" => Action::show(what),
            "hide" => Action::hide(what),
            "solid" => self.switch(what, Switch::Solid)?,
            "detect" => self.switch(what, Switch::Detect)?,
            "tag" => Action::tag(what, self.needed("with", keys.with.as_ref())?),
            "untag" => Action::untag(what, self.needed("with", keys.with.as_ref())?),
            "count" => Action::Count { name: what, of, change: self.whole()? },
            "flag" => Action::Flag { name: what, of, to: self.setting()? },
            "stat" => {
                let of = self.needed("of", keys.of.as_ref())?;
                Action::Stat { name: what, of, change: self.number()? }
            }
            "hurt" | "heal" => {
                let Some(ByKeys::Number(by)) = keys.by else {
                    let help = format!("as in {{ {verb} = \"who\", by = 5 }}");
                    self.error("by", "missing-key", "`by` how much is missing", &help);
                    return None;
                };
                let by = if verb == "hurt" { -by } else { by };
                Action::stat(what, HEALTH, Change::Add(by))
            }
            "effect" => Action::effect(what, self.needed("of", keys.of.as_ref())?),
            "end_effect" => Action::end_effect(what, self.needed("of", keys.of.as_ref())?),
            "grant" => {
                let grant = keys.grant.as_ref().map(GrantKeys::grant).unwrap_or_default();
                Action::grant(grant, self.to()?)
            }
            "collect" => Action::collect(what, self.to()?),
            "say" => Action::Say(what),
            "cue" => Action::Cue(what),
            "send" => {
                let Some(event) = EventKind::from_word(&what) else {
                    let words = EventKind::ALL.iter().map(|kind| kind.word());
                    let help = match nearest(&what, words) {
                        Some(nearest) => format!("did you mean `{nearest}`?"),
                        None => "as in { send = \"enter\", on = \"pad\", who = \"who\" }".into(),
                    };
                    let message = format!("there is no event `{what}`");
                    self.error("send", "unknown-name", &message, &help);
                    return None;
                };
                let on = self.needed("on", keys.on.as_ref())?;
                Action::Send { event, on, who: keys.who.clone() }
            }
            "spawn" => Action::spawn(what, self.needed("at", keys.at.as_ref())?),
            "remove" => Action::Remove(what),
            "reset" => Action::Reset(what),
            "attach" => Action::attach(what, self.to()?),
            "detach" => Action::Detach(what),
            "call" => Action::Call(what),
            "stop" => Action::Stop { name: what, of },
            _ => Action::Wait(match &keys.wait {
                Some(Literal::Whole(seconds)) => Wait::Seconds(*seconds as f64),
                Some(Literal::Number(seconds)) => Wait::Seconds(*seconds),
                Some(Literal::Text(name)) => Wait::Arrival(name.clone()),
                _ => {
                    let message = "`wait` takes seconds, or the name of what is to arrive";
                    self.error("wait", "bad-value", message, "as in { wait = 2.0 }");
                    return None;
                }
            }),
        })
    }

    fn needed(&mut self, key: &'static str, value: Option<&String>) -> Option<String> {
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
    fn to(&mut self) -> Option<String> {
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
                    self.error("choose", "bad-value", &message, &help);
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
        Some(match (keys.over, keys.rate) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("rate", "no-partner", "`over` and `rate` say the same twice", help);
                return None;
            }
            (Some(seconds), None) => lead.over(seconds).into(),
            (None, Some(speed)) => lead.rate(speed).into(),
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
            (None, Some(ByKeys::Way(way))) => Some(Destination::By(*way)),
            (None, Some(ByKeys::Number(_))) => {
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

    fn turn(&mut self, verb: &str, what: String) -> Option<Action> {
        let keys = self.keys;
        let pace = match (keys.over, keys.rate) {
            (Some(_), Some(_)) => {
                let help = "keep the one that is meant";
                self.error("rate", "no-partner", "`over` and `rate` say the same twice", help);
                return None;
            }
            (None, Some(degrees)) => Pace::Rate(degrees.to_radians()),
            (over, None) => Pace::Over(over.unwrap_or_default()),
        };
        let (towards, by) = match (verb, &keys.by) {
            ("face", _) => (Some(self.to()?), 0.0),
            (_, Some(ByKeys::Number(degrees))) => (None, degrees.to_radians()),
            _ => {
                let help = "as in { turn = \"weathercock\", by = 90 }";
                self.error("", "missing-key", "`by` how many degrees is missing", help);
                return None;
            }
        };
        Some(Action::Turn(Turn { what, towards, by, pace, ease: self.ease()? }))
    }

    fn switch(&mut self, what: String, switch: Switch) -> Option<Action> {
        Some(Action::Switch { what, switch, to: self.setting()? })
    }

    /// On, off, or over if nothing is said.
    #[expect(clippy::option_option, reason = "none if it is neither of the three")]
    fn setting(&mut self) -> Option<Option<bool>> {
        match self.keys.set {
            None => Some(None),
            Some(Literal::Flag(on)) => Some(Some(on)),
            Some(_) => {
                self.error("set", "bad-value", "`set` is true or false here", "set = true");
                None
            }
        }
    }

    fn whole(&mut self) -> Option<Change> {
        match (&self.keys.add, &self.keys.set) {
            (Some(Literal::Whole(amount)), None) => Some(Change::Add(*amount)),
            (None, Some(Literal::Whole(value))) => Some(Change::Set(*value)),
            _ => {
                let message = "a count needs either `add` or `set`, a whole number";
                self.error("", "one-change", message, "as in { count = \"tokens\", add = 1 }");
                None
            }
        }
    }

    fn number(&mut self) -> Option<Change<f64>> {
        let number = |value: &Literal| match value {
            Literal::Whole(whole) => Some(*whole as f64),
            Literal::Number(number) => Some(*number),
            _ => None,
        };
        let keys = self.keys;
        let change = match (&keys.add, &keys.set) {
            (Some(amount), None) => number(amount).map(Change::Add),
            (None, Some(value)) => number(value).map(Change::Set),
            _ => None,
        };
        if change.is_none() {
            let help = "as in { stat = \"strength\", of = \"who\", add = 1 }";
            self.error("", "one-change", "a stat needs either `add` or `set`, a number", help);
        }
        change
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
