//! Something wrong or suspicious in a file: what, where, and the cure.

use std::fmt::{self, Display, Write};
use std::ops::Range;
use std::sync::Arc;

use miette::{
    Diagnostic, GraphicalReportHandler, GraphicalTheme, LabeledSpan, NamedSource, SourceCode,
};

use crate::source::Source;

/// The longest line of a file that is shown, in bytes.
const LONG_LINE: usize = 400;

/// A text of several lines as it can be shown.
fn harmless(text: &str) -> String {
    let lines: Vec<_> = text.split('\n').map(hazuro::shown).collect();
    lines.join("\n")
}

/// How bad a finding is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// It may be meant so, but is worth a look.
    Hint,
    /// It can be played, but probably does not do what was meant.
    Warning,
    /// It cannot be played.
    Error,
}

/// Something wrong or suspicious in a file.
///
/// ```
/// use hazuro_files::{Source, read_scene};
/// let source = Source::new("yard.toml", "[[entity]]\nname = \"gate\"\nparent = \"wal\"\n");
/// let findings = read_scene(&source).unwrap_err();
/// assert_eq!(findings[0].code(), "unknown-name");
/// assert_eq!(findings[0].place().as_deref(), Some("yard.toml:3:10"));
/// ```
#[derive(Clone, Debug)]
pub struct Finding {
    severity: Severity,
    code: &'static str,
    message: String,
    help: Option<String>,
    at: Option<(Source, Range<usize>)>,
}

impl Finding {
    /// A finding without a place.
    pub fn new(severity: Severity, code: &'static str, message: impl Into<String>) -> Self {
        let message = harmless(&message.into());
        Self { severity, code, message, help: None, at: None }
    }

    /// With how to cure it.
    #[must_use]
    pub fn with_help(self, help: impl Into<String>) -> Self {
        Self { help: Some(harmless(&help.into())), ..self }
    }

    /// With the bytes of the text that it is about.
    #[must_use]
    pub fn at(self, source: &Source, span: Range<usize>) -> Self {
        Self { at: Some((source.clone(), span)), ..self }
    }

    /// How bad it is.
    pub fn severity(&self) -> Severity {
        self.severity
    }

    /// A short name that stays the same from version to version.
    pub fn code(&self) -> &'static str {
        self.code
    }

    /// What is wrong.
    pub fn message(&self) -> &str {
        &self.message
    }

    /// The cure, if it can be said.
    pub fn help(&self) -> Option<&str> {
        self.help.as_deref()
    }

    /// `file:line:column`, if it has a place.
    pub fn place(&self) -> Option<String> {
        let (source, span) = self.at.as_ref()?;
        let (line, column) = source.line_and_column(span.start);
        Some(format!("{}:{line}:{column}", source.name()))
    }

    /// In one line: the place, the code, and what is wrong.
    pub fn line(&self) -> String {
        let place = self.place().map_or(String::new(), |place| format!("{place}: "));
        format!("{place}{}: {}", self.code, self.message)
    }

    /// The text it is about, and which bytes of it.
    pub(crate) fn at_text(&self) -> Option<(&Source, &Range<usize>)> {
        self.at.as_ref().map(|(source, span)| (source, span))
    }

    /// Where in its text it starts.
    pub(crate) fn start(&self) -> usize {
        self.at.as_ref().map_or(0, |(_, span)| span.start)
    }

    /// The finding in full, with the lines of the file it is about. Colour is never the only sign.
    pub fn render(&self, width: usize, colour: bool) -> String {
        let theme =
            if colour { GraphicalTheme::unicode() } else { GraphicalTheme::unicode_nocolor() };
        let handler = GraphicalReportHandler::new_themed(theme).with_width(width).with_links(false);
        let mut text = String::new();
        if self.source_code().is_none()
            && let Some(place) = self.place()
        {
            let _ = writeln!(text, "{}", hazuro::shown(&place));
        }
        if handler.render_report(&mut text, self).is_err() {
            // A span that does not fit its text; the words still say what is wrong.
            let _ = write!(text, "{self}");
        }
        text
    }
}

impl Display for Finding {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

impl std::error::Error for Finding {}

impl Diagnostic for Finding {
    fn code<'a>(&'a self) -> Option<Box<dyn Display + 'a>> {
        Some(Box::new(self.code))
    }

    fn severity(&self) -> Option<miette::Severity> {
        Some(match self.severity {
            Severity::Error => miette::Severity::Error,
            Severity::Warning => miette::Severity::Warning,
            Severity::Hint => miette::Severity::Advice,
        })
    }

    fn help<'a>(&'a self) -> Option<Box<dyn Display + 'a>> {
        self.help.as_ref().map(|help| Box::new(help) as Box<dyn Display>)
    }

    fn source_code(&self) -> Option<&dyn SourceCode> {
        let (source, span) = self.at.as_ref()?;
        // A line without end is no help; its place is said instead.
        (source.line_length(span.start) <= LONG_LINE).then(|| {
            let named: &Arc<NamedSource<String>> = source.to_show();
            named as &dyn SourceCode
        })
    }

    fn labels(&self) -> Option<Box<dyn Iterator<Item = LabeledSpan> + '_>> {
        let (_, span) = self.at.as_ref().filter(|_| self.source_code().is_some())?;
        let span = LabeledSpan::new_with_span(None, span.clone());
        Some(Box::new(std::iter::once(span)))
    }
}
