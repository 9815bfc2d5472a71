//! What an action makes of a count, a flag, a stat, a switch or a slot.

use hazuro::scene::{Change, Filling, Quantity, SlotSort};

use crate::keys::literal::Literal;

use super::action::Reader;

impl<'a> Reader<'a> {
    /// What is put into the slot of this name.
    pub(super) fn filling(&mut self, slot: &str) -> Option<Filling> {
        if self.keys.to.is_some() && self.keys.set.is_none() {
            return self.to().map(Filling::Entity);
        }
        Some(match &self.keys.set {
            Some(_) if self.keys.to.is_some() => {
                let help = "keep the one that is meant";
                self.error("set", "no-partner", "`to` and `set` are two fillings", help);
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
                self.error("", "missing-key", message, help);
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
                self.error("set", "bad-value", "`set` is true or false here", "set = true");
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
                self.error("", "one-change", message, "as in { count = \"tokens\", add = 1 }");
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
                self.error("", "one-change", message, help);
                return None;
            }
        };
        Some(if key == "add" { Change::Add(amount) } else { Change::Set(amount) })
    }
}
