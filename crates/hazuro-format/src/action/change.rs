//! What an action makes of a count, a flag, a stat, a switch or a slot, and for what one waits.

use hazuro::scene::{Change, Filling, Quantity, SlotSort, Wait, slot_reference};

use crate::code::Code;
use crate::keys::literal::Literal;
use crate::keys::quantity::QuantityKeys;
use crate::read::reader::Formulas;

use super::reader::Reader;
use super::{ActionKeys, ByKeys, none};

impl<'a> Reader<'a> {
    /// What is put into the slot of this name.
    pub(super) fn filling(&mut self, slot: &str) -> Option<Filling> {
        if self.keys.to.is_some() && self.keys.set.is_none() {
            return self.to().map(Filling::Entity);
        }
        Some(match &self.keys.set {
            Some(_) if self.keys.to.is_some() => {
                let help = "keep the one that is meant";
                self.error("set", Code::NoPartner, "`to` and `set` are two fillings", help);
                return None;
            }
            Some(Literal::Whole(number)) => (*number as f64).into(),
            Some(Literal::Number(number)) => (*number).into(),
            Some(Literal::Flag(up)) => (*up).into(),
            Some(Literal::Text(text)) => {
                let sorts = self.formulas.known.slots.get(slot);
                if sorts.is_some_and(|sorts| sorts.as_slice() == [SlotSort::Number]) {
                    self.formula("set", text)?.into()
                } else {
                    text.as_str().into()
                }
            }
            None => {
                let help = "as in { fill = \"owner\", of = \"on\", to = \"who\" }, or set = 2.5";
                let message = "`fill` needs what is put into the slot: `to` or `set`";
                self.error("", Code::MissingKey, message, help);
                return None;
            }
        })
    }

    /// On, off, or over if nothing is said.
    #[expect(clippy::option_option, reason = "none if it is neither of the three")]
    pub(super) fn setting(&mut self) -> Option<Option<bool>> {
        match self.keys.set {
            None => Some(None),
            Some(Literal::Flag(on)) => Some(Some(on)),
            Some(_) => {
                self.error("set", Code::BadValue, "`set` is true or false here", "set = true");
                None
            }
        }
    }

    /// What a count or stat changes by, and its key; true or false, of which nothing comes, if there is none.
    fn change(&self) -> (&'static str, &'a Literal) {
        match (&self.keys.add, &self.keys.set) {
            (Some(amount), None) => ("add", amount),
            (None, Some(value)) => ("set", value),
            _ => ("", &Literal::Flag(false)),
        }
    }

    pub(super) fn whole(&mut self) -> Option<Change<Quantity<i64>>> {
        let (key, given) = self.change();
        let amount = match given {
            Literal::Whole(amount) => (*amount).into(),
            Literal::Text(text) => self.formula(key, text)?.into(),
            _ => {
                let message = "a count needs either `add` or `set`, a whole number or a formula";
                self.error("", Code::OneChange, message, "as in { count = \"tokens\", add = 1 }");
                return None;
            }
        };
        Some(if key == "add" { Change::Add(amount) } else { Change::Set(amount) })
    }

    pub(super) fn number(&mut self) -> Option<Change<Quantity>> {
        let (key, given) = self.change();
        let amount = match given {
            Literal::Whole(amount) => (*amount as f64).into(),
            Literal::Number(amount) => (*amount).into(),
            Literal::Text(text) => self.formula(key, text)?.into(),
            Literal::Flag(_) => {
                let help = "as in { stat = \"strength\", of = \"who\", add = 1 }";
                let message = "a stat needs either `add` or `set`, a number or a formula";
                self.error("", Code::OneChange, message, help);
                return None;
            }
        };
        Some(if key == "add" { Change::Add(amount) } else { Change::Set(amount) })
    }

    /// How much somebody is hurt or healed.
    pub(super) fn amount(&mut self, verb: &str) -> Option<Quantity> {
        let Some(ByKeys::Amount(by)) = &self.keys.by else {
            let help = format!("as in {{ {verb} = \"who\", by = 5 }}");
            self.error("by", Code::MissingKey, "`by` how much is missing", help);
            return None;
        };
        self.quantity("by", by)
    }

    /// For what the actions after it wait.
    pub(super) fn wait(&mut self, given: &Literal) -> Option<Wait> {
        Some(match given {
            Literal::Whole(seconds) => Wait::Seconds((*seconds as f64).into()),
            Literal::Number(seconds) => Wait::Seconds((*seconds).into()),
            Literal::Text(text) if self.is_seconds(text) => {
                Wait::Seconds(self.formula("wait", text)?.into())
            }
            Literal::Text(name) => Wait::Arrival(name.clone()),
            Literal::Flag(_) => {
                let message = "`wait` takes seconds, or the name of what is to arrive";
                self.error("wait", Code::BadValue, message, "as in { wait = 2.0 }");
                return None;
            }
        })
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
}

/// The keys of a change.
pub(super) fn changed<N>(change: Change<Quantity<N>>, number: fn(N) -> Literal) -> ActionKeys {
    match change {
        Change::Add(amount) => ActionKeys { add: Some(literal(amount, number)), ..none() },
        Change::Set(value) => ActionKeys { set: Some(literal(value, number)), ..none() },
    }
}

/// How much somebody is hurt or healed, without its sign.
pub(super) fn amount(by: &Quantity) -> ByKeys {
    ByKeys::Amount(QuantityKeys::of(by, f64::abs))
}

/// The keys of what is put into a slot.
pub(super) fn filled(with: Filling) -> ActionKeys {
    let set = match with {
        Filling::Entity(entity) => return ActionKeys { to: Some(entity.into()), ..none() },
        Filling::Number(number) => Some(literal(number, Literal::Number)),
        Filling::Text(text) => Some(Literal::Text(text)),
        Filling::Flag(up) => Some(Literal::Flag(up)),
        Filling::Nothing => None,
    };
    ActionKeys { set, ..none() }
}

/// What a `wait` takes.
pub(super) fn awaited(wait: Wait) -> Literal {
    match wait {
        Wait::Seconds(seconds) => literal(seconds, Literal::Number),
        Wait::Arrival(what) => Literal::Text(what),
    }
}

/// An amount, or the formula for it.
fn literal<N>(quantity: Quantity<N>, number: fn(N) -> Literal) -> Literal {
    match quantity {
        Quantity::Fixed(amount) => number(amount),
        Quantity::Formula(formula) => Literal::Text(formula.text().into()),
    }
}
