//! From the keys of an action to its description.

use hazuro::motion::Easing;
use hazuro::scene::{Action, EventKind, Formula, Quantity};

use crate::code::Code;
use crate::cure::Cure;
use crate::keys::one_or_many::Names;
use crate::keys::quantity::QuantityKeys;
use crate::language::BadExpression;
use crate::read::reader::Formulas;

use super::{ActionKeys, Verb};

/// What is wrong with an action.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct BadAction {
    /// The key at which; empty for the whole action.
    pub key: &'static str,
    pub code: Code,
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

/// What reads one action, and what it finds wrong.
pub(super) struct Reader<'a> {
    pub(super) keys: &'a ActionKeys,
    pub(super) formulas: Formulas<'a>,
    bad: Vec<BadAction>,
}

impl Reader<'_> {
    pub(super) fn error(
        &mut self,
        key: &'static str,
        code: Code,
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
            self.error("", Code::OneAction, message, help);
            return None;
        };
        self.partners(*verb);
        verb.read(self)
    }

    /// Whether every key goes with the verb.
    fn partners(&mut self, verb: Verb) {
        for (key, there) in self.keys.partners() {
            if there && !verb.partners().contains(&key) {
                let takers = Verb::ALL.iter().filter(|verb| verb.partners().contains(&key));
                let takers: Vec<&str> = takers.map(|verb| verb.word()).collect();
                let message = format!("`{key}` does not go with `{}`", verb.word());
                let help = format!("it goes with {}", takers.join(" and "));
                self.error(key, Code::NoPartner, &message, help);
            }
        }
    }

    /// The value of a key that must be there; `help` says how to give it.
    fn needed(&mut self, key: &'static str, value: Option<&String>, help: &str) -> Option<String> {
        if value.is_none() {
            self.error("", Code::MissingKey, &format!("the key `{key}` is missing here"), help);
        }
        value.cloned()
    }

    /// Whose it is.
    pub(super) fn of(&mut self) -> Option<String> {
        self.needed("of", self.keys.of.as_ref(), "add `of = \"who\"`, or whose it is")
    }

    /// The tag.
    pub(super) fn with(&mut self) -> Option<String> {
        self.needed("with", self.keys.with.as_ref(), "add `with = \"...\"`: the tag")
    }

    /// The detector of an event.
    pub(super) fn on(&mut self) -> Option<String> {
        let help = "add `on = \"...\"`: the detector whose event it is";
        self.needed("on", self.keys.on.as_ref(), help)
    }

    /// The entity whose pose it is about.
    pub(super) fn at(&mut self) -> Option<String> {
        let help = "add `at = \"...\"`: the entity whose place it takes";
        self.needed("at", self.keys.at.as_ref(), help)
    }

    /// Reports that `to` is missing.
    pub(super) fn without_to(&mut self) {
        let help = "add `to = \"...\"`: the entity meant, or with `move` also \"home\"";
        self.needed("to", None, help);
    }

    /// The event of a word.
    pub(super) fn event(&mut self, word: &str) -> Option<EventKind> {
        let found = EventKind::from_word(word);
        if found.is_none() {
            let words = EventKind::ALL.iter().map(|kind| kind.word());
            let help = Cure::nearest(word, words, || {
                "as in { send = \"enter\", on = \"pad\", who = \"who\" }".into()
            });
            let message = format!("there is no event `{word}`");
            self.error("send", Code::UnknownName, &message, help);
        }
        found
    }

    /// The one entity that `to` names.
    pub(super) fn to(&mut self) -> Option<String> {
        match &self.keys.to {
            Some(Names::Many(names)) => {
                if let [one] = names.as_slice() {
                    return Some(one.clone());
                }
                let help = "only `teleport` chooses among several";
                self.error("to", Code::OnlyOne, "`to` is one entity here", help);
                None
            }
            Some(Names::One(name)) => Some(name.clone()),
            None => {
                self.without_to();
                None
            }
        }
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
        self.bad.push(BadAction { key, code: Code::BadExpression, message, help, formula });
        None
    }

    pub(super) fn quantity(&mut self, key: &'static str, keys: &QuantityKeys) -> Option<Quantity> {
        match keys {
            QuantityKeys::Number(number) => Some((*number).into()),
            QuantityKeys::Formula(text) => self.formula(key, text).map(Into::into),
        }
    }

    pub(super) fn quantity_or(
        &mut self,
        key: &'static str,
        keys: Option<&QuantityKeys>,
        usual: f64,
    ) -> Option<Quantity> {
        keys.map_or(Some(usual.into()), |keys| self.quantity(key, keys))
    }

    /// A way along three axes.
    pub(super) fn way(
        &mut self,
        key: &'static str,
        [x, y, z]: &[QuantityKeys; 3],
    ) -> Option<[Quantity; 3]> {
        let [x, y, z] = [x, y, z].map(|along| self.quantity(key, along));
        Some([x?, y?, z?])
    }

    pub(super) fn ease(&mut self) -> Option<Easing> {
        match self.keys.ease.as_deref().unwrap_or("linear").parse() {
            Ok(ease) => Some(ease),
            Err(error) => {
                let error: hazuro::motion::EasingError = error;
                let help = "as in ease = \"ease-in-out\"";
                self.error("ease", Code::BadEasing, &error.to_string(), help);
                None
            }
        }
    }
}
