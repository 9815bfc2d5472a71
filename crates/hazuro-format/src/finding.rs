//! Something wrong or suspicious in a file: what, where, and the cure.

use std::fmt::{self, Display};
use std::ops::Range;

use hazuro::scene::Fault;

use crate::code::Code;
use crate::cure::{Cure, cure_of};
use crate::edit::Edit;
use crate::source::Source;

/// A text of several lines as it can be shown. Of words of a file that are far too long it has the
/// beginnings, and of the whole no more than anybody reads.
fn harmless(text: &str) -> String {
    const LONGEST_WORD: usize = 300;
    const LONGEST: usize = 4000;
    let lines: Vec<_> = text.split('\n').map(hazuro::shown).collect();
    let shown = lines.join("\n");
    if shown.len() <= LONGEST_WORD {
        return shown;
    }
    let (mut short, mut run) = (String::new(), 0);
    for (count, character) in shown.chars().enumerate() {
        if count == LONGEST {
            short.push('…');
            break;
        }
        run = if character.is_whitespace() { 0 } else { run + 1 };
        match run {
            0..LONGEST_WORD => short.push(character),
            LONGEST_WORD => short.push('…'),
            _ => {}
        }
    }
    short
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

impl Severity {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Error => "error",
            Self::Warning => "warning",
            Self::Hint => "hint",
        }
    }
}

/// Something wrong or suspicious in a file.
///
/// ```
/// use hazuro_format::{Source, read_scene};
/// let source = Source::new("yard.toml", "[[entity]]\nname = \"gate\"\nparent = \"wal\"\n");
/// let findings = read_scene(&source).unwrap_err();
/// assert_eq!(findings[0].code(), "unknown-name");
/// assert_eq!(findings[0].place().as_deref(), Some("yard.toml:3:10"));
/// ```
#[derive(Clone, Debug)]
pub struct Finding {
    severity: Severity,
    code: Code,
    message: String,
    cure: Option<Cure>,
    edits: Box<[Edit]>,
    at: Option<(Source, Range<usize>)>,
}

impl Finding {
    /// A finding without a place.
    pub fn new(severity: Severity, code: Code, message: impl Into<String>) -> Self {
        let message = harmless(&message.into());
        Self { severity, code, message, cure: None, edits: Box::default(), at: None }
    }

    /// The error that a fault of a scene is, with its cure; without a place.
    ///
    /// ```
    /// use hazuro::{Play, Scene, scene::Entity};
    /// let play = Play::new(Scene::builder("Yard").entity(Entity::new("gate")).build().unwrap());
    /// let finding = hazuro_format::Finding::of_fault(&play.pose("gaet").unwrap_err());
    /// assert_eq!(finding.code(), "unknown-name");
    /// assert_eq!(finding.help(), Some("did you mean `gate`?"));
    /// ```
    pub fn of_fault(fault: &Fault) -> Self {
        let finding = Self::new(Severity::Error, fault.into(), fault.to_string());
        match cure_of(fault) {
            Some(cure) => finding.with_help(cure),
            None => finding,
        }
    }

    /// With how to cure it.
    #[must_use]
    pub fn with_help(self, cure: impl Into<Cure>) -> Self {
        Self { cure: Some(cure.into().map(harmless)), ..self }
    }

    /// With the edits that cure it, all of them together.
    #[must_use]
    pub fn with_edits(self, edits: Vec<Edit>) -> Self {
        Self { edits: edits.into(), ..self }
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

    /// Which finding it is.
    pub fn code(&self) -> Code {
        self.code
    }

    /// What is wrong.
    pub fn message(&self) -> &str {
        &self.message
    }

    /// The cure, if it can be said.
    pub fn help(&self) -> Option<&str> {
        self.cure.as_ref().map(Cure::words)
    }

    /// The edits that cure it, all of them together; none if the cure is not certain, or is not
    /// an edit of a file.
    pub fn edits(&self) -> Vec<Edit> {
        if !self.edits.is_empty() {
            return self.edits.to_vec();
        }
        let instead = self.cure.as_ref().and_then(Cure::instead);
        let edit = self.at_text().zip(instead).and_then(|((source, span), (wrong, right))| {
            Edit::word(source, span.clone(), wrong, right)
        });
        edit.into_iter().collect()
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
    pub fn at_text(&self) -> Option<(&Source, &Range<usize>)> {
        self.at.as_ref().map(|(source, span)| (source, span))
    }

    /// Where in its text it starts.
    pub fn start(&self) -> usize {
        self.at.as_ref().map_or(0, |(_, span)| span.start)
    }
}

impl Display for Finding {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

impl std::error::Error for Finding {}
