//! What reads the parts of a scene file: it keeps what is found, and where.

use std::cell::OnceCell;

use hazuro::scene::{Condition, Fault, Field, Score};

use crate::cure::{Cure, cure_of};
use crate::finding::{Finding, Severity};
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

    fn finding(&self, field: &Field, code: &'static str, message: impl Into<String>) -> Finding {
        let span = self.spans().map_or(0..0, |spans| spans.find(field));
        Finding::new(Severity::Error, code, message).at(self.source, span)
    }

    pub fn error(
        &mut self,
        field: &Field,
        code: &'static str,
        message: &str,
        help: impl Into<Cure>,
    ) {
        let finding = self.finding(field, code, message).with_help(help);
        self.findings.push(finding);
    }

    pub fn fault(&mut self, field: &Field, fault: &Fault) {
        let finding = self.finding(field, fault.code(), fault.to_string());
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

    pub fn score(&mut self, text: Option<&String>, field: &Field) -> Option<Score> {
        let text = text?;
        let read = self.language.score(text, &self.known);
        self.expression(read, text, field)
    }

    fn expression<T>(
        &mut self,
        read: Result<T, BadExpression>,
        text: &str,
        field: &Field,
    ) -> Option<T> {
        read.map_err(|bad| {
            let finding = bad.finding(self.source, self.spans(), field, text);
            self.findings.push(finding);
        })
        .ok()
    }
}
