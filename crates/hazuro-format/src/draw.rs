//! Findings drawn with the lines of the file they are about.

use std::fmt::{self, Display, Write};

use miette::{
    Diagnostic, GraphicalReportHandler, GraphicalTheme, LabeledSpan, MietteError,
    MietteSpanContents, SourceCode, SourceSpan, SpanContents,
};

use crate::finding::{Finding, Severity};
use crate::source::Source;

/// The longest line of a file that is shown, in bytes.
const LONG_LINE: usize = 400;

impl Finding {
    /// The finding in full, with the lines of the file it is about. Colour is never the only sign.
    pub fn render(&self, width: usize, colour: bool) -> String {
        let theme =
            if colour { GraphicalTheme::unicode() } else { GraphicalTheme::unicode_nocolor() };
        let handler = GraphicalReportHandler::new_themed(theme).with_width(width).with_links(false);
        let mut text = String::new();
        // A line without end is no help, nor are such lines around it; its place is said instead.
        let fits = |source: &Source, span, around| source.longest_line(span, around) <= LONG_LINE;
        let lines = self.at_text().filter(|(source, span)| fits(source, span, 0));
        let around = usize::from(lines.is_some_and(|(source, span)| fits(source, span, 1)));
        let handler = handler.with_context_lines(around);
        let lines = lines.map(|(source, _)| Lines(source));
        if lines.is_none()
            && let Some(place) = self.place()
        {
            let _ = writeln!(text, "{}", hazuro::shown(&place));
        }
        if handler.render_report(&mut text, &Drawn { finding: self, lines }).is_err() {
            // A span that does not fit its text; the words still say what is wrong.
            let _ = write!(text, "{self}");
        }
        text
    }
}

/// The lines of a file.
#[derive(Debug)]
struct Lines<'a>(&'a Source);

impl SourceCode for Lines<'_> {
    fn read_span<'a>(
        &'a self,
        span: &SourceSpan,
        before: usize,
        after: usize,
    ) -> Result<Box<dyn SpanContents<'a> + 'a>, MietteError> {
        let (name, text) = self.0.to_show();
        let part = text.read_span(span, before, after)?;
        Ok(Box::new(MietteSpanContents::new_named(
            name.clone(),
            part.data(),
            *part.span(),
            part.line(),
            part.column(),
            part.line_count(),
        )))
    }
}

/// A finding with the lines it is about.
#[derive(Debug)]
struct Drawn<'a> {
    finding: &'a Finding,
    lines: Option<Lines<'a>>,
}

impl Display for Drawn<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.finding.fmt(f)
    }
}

impl std::error::Error for Drawn<'_> {}

impl Diagnostic for Drawn<'_> {
    fn code<'a>(&'a self) -> Option<Box<dyn Display + 'a>> {
        Some(Box::new(self.finding.code()))
    }

    fn severity(&self) -> Option<miette::Severity> {
        Some(match self.finding.severity() {
            Severity::Error => miette::Severity::Error,
            Severity::Warning => miette::Severity::Warning,
            Severity::Hint => miette::Severity::Advice,
        })
    }

    fn help<'a>(&'a self) -> Option<Box<dyn Display + 'a>> {
        self.finding.help().map(|help| Box::new(help) as Box<dyn Display>)
    }

    fn source_code(&self) -> Option<&dyn SourceCode> {
        self.lines.as_ref().map(|lines| lines as &dyn SourceCode)
    }

    fn labels(&self) -> Option<Box<dyn Iterator<Item = LabeledSpan> + '_>> {
        let (_, span) = self.finding.at_text().filter(|_| self.lines.is_some())?;
        let span = LabeledSpan::new_with_span(None, span.clone());
        Some(Box::new(std::iter::once(span)))
    }
}
