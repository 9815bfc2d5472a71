//! What reads the parts of a scene file: it keeps what is found, and where.

use std::cell::OnceCell;

use hazuro::scene::{Condition, Fault, Field, Formula, Quantity};

use crate::code::Code;
use crate::cure::{Cure, cure_of};
use crate::finding::{Finding, Severity};
use crate::keys::quantity::QuantityKeys;
use crate::language::{BadExpression, Known, Language, Provided};
use crate::source::Source;
use crate::spans::Spans;

pub(crate) struct Reader<'a> {
    source: &'a Source,
    /// Taken apart only if there is something to point at.
    spans: OnceCell<Option<Spans>>,
    pub findings: Vec<Finding>,
    language: &'a dyn Language,
    /// What conditions may name.
    known: Known,
    /// What scripts provide.
    pub provided: Provided,
}

/// What reads the formulas of actions, and what they may name.
#[derive(Clone, Copy)]
pub(crate) struct Formulas<'a> {
    pub language: &'a dyn Language,
    pub known: &'a Known,
}

impl<'a> Reader<'a> {
    pub fn new(
        source: &'a Source,
        language: &'a dyn Language,
        known: Known,
        provided: Provided,
    ) -> Self {
        Self { source, spans: OnceCell::new(), findings: Vec::new(), language, known, provided }
    }

    fn spans(&self) -> Option<&Spans> {
        self.spans.get_or_init(|| Spans::of(self.source)).as_ref()
    }

    fn finding(&self, field: &Field, code: Code, message: impl Into<String>) -> Finding {
        let span = self.spans().map_or(0..0, |spans| spans.find(field));
        Finding::new(Severity::Error, code, message).at(self.source, span)
    }

    pub fn error(&mut self, field: &Field, code: Code, message: &str, help: impl Into<Cure>) {
        let finding = self.finding(field, code, message).with_help(help);
        self.findings.push(finding);
    }

    pub fn fault(&mut self, field: &Field, fault: &Fault) {
        let finding = self.finding(field, fault.into(), fault.to_string());
        self.findings.push(match cure_of(fault) {
            Some(cure) => finding.with_help(cure),
            None => finding,
        });
    }

    pub fn condition(&mut self, text: Option<&String>, field: &Field) -> Option<Condition> {
        let text = text?;
        let read = self.language.condition(text, &self.known);
        self.expression(read, text, field)
    }

    /// The condition on which a subject is admitted.
    pub fn admission(&mut self, text: Option<&String>, field: &Field) -> Option<Condition> {
        let text = text?;
        let read = self.language.admission(text, &self.known);
        self.expression(read, text, field)
    }

    pub fn formula(&mut self, text: Option<&String>, field: &Field) -> Option<Formula> {
        let text = text?;
        let read = self.language.formula(text, &self.known);
        self.expression(read, text, field)
    }

    /// A number, or a formula.
    pub fn quantity(&mut self, keys: Option<&QuantityKeys>, field: &Field) -> Option<Quantity> {
        match keys? {
            QuantityKeys::Number(number) => Some((*number).into()),
            QuantityKeys::Formula(text) => self.formula(Some(text), field).map(Into::into),
        }
    }

    /// What reads the formulas of actions.
    pub fn formulas(&self) -> Formulas<'_> {
        Formulas { language: self.language, known: &self.known }
    }

    /// Reports an expression that cannot be used.
    pub fn bad_expression(&mut self, bad: &BadExpression, text: &str, field: &Field) {
        let finding = bad.finding(self.source, self.spans(), field, text);
        self.findings.push(finding);
    }

    fn expression<T>(
        &mut self,
        read: Result<T, BadExpression>,
        text: &str,
        field: &Field,
    ) -> Option<T> {
        read.map_err(|bad| self.bad_expression(&bad, text, field)).ok()
    }
}
