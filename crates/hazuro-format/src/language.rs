//! What the texts of conditions and scripts are written in. Reading a scene needs it, but this crate
//! has none of its own: a program that loads scenes without conditions does without.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;

use hazuro::Scene;
use hazuro::scene::{Condition, Field, Formula, Kind, SlotSort};

use crate::code::Code;
use crate::cure::Cure;
use crate::finding::{Finding, Severity};
use crate::source::Source;
use crate::spans::Spans;

/// A language for conditions and scripts.
///
/// `hazuro-script` has one. Another has to read its conditions and formulas, and the scripts of a scene.
///
/// ```
/// use hazuro::Scene;
/// use hazuro::scene::{Condition, Facts, Formula};
/// use hazuro_format::{BadExpression, Finding, Known, Language, Provided, Source, read_scene_with};
///
/// /// Knows `day` and `night`: before noon, and after.
/// struct Clock;
///
/// impl Language for Clock {
///     fn condition(&self, text: &str, _: &Known) -> Result<Condition, BadExpression> {
///         match text {
///             "day" => Ok(Condition::new("day", |facts| facts.time().secs() < 12.0)),
///             "night" => Ok(Condition::new("night", |facts| facts.time().secs() >= 12.0)),
///             _ => Err(BadExpression::new("neither `day` nor `night`")),
///         }
///     }
///     fn formula(&self, _: &str, _: &Known) -> Result<Formula, BadExpression> {
///         Err(BadExpression::new("a clock has no formulas"))
///     }
///     fn scripts(&mut self, _: Vec<Source>) -> Result<Provided, Vec<Finding>> {
///         Ok(Provided::default())
///     }
///     fn complete(&mut self, _: &Scene) -> Result<(), Vec<Finding>> {
///         Ok(())
///     }
/// }
///
/// let source = Source::new("yard.toml", "[[reaction]]\non = { cue = \"bell\" }\nif = \"dya\"\ndo = [{ say = \"a\" }]\n");
/// let file = |path: &std::path::Path| Source::read(path);
/// let findings = read_scene_with(&source, &mut Clock, &file).unwrap_err();
/// assert_eq!(findings[0].place().as_deref(), Some("yard.toml:3:7"));
/// ```
pub trait Language {
    /// Reads a condition that may name what is known.
    ///
    /// # Errors
    /// If it is none, or names something else.
    fn condition(&self, text: &str, known: &Known) -> Result<Condition, BadExpression>;

    /// Reads the condition on which a detector admits a subject. A subject that lacks the stat that it asks for may be
    /// not admitted, where any other condition fails.
    ///
    /// # Errors
    /// If it is none, or names something else.
    fn admission(&self, text: &str, known: &Known) -> Result<Condition, BadExpression> {
        self.condition(text, known)
    }

    /// Reads a formula that may name what is known: where a number may stand, and the score of a seeker.
    ///
    /// # Errors
    /// If it is none, or names something else.
    fn formula(&self, text: &str, known: &Known) -> Result<Formula, BadExpression>;

    /// Takes the scripts of a scene that is about to be read.
    ///
    /// # Errors
    /// Everything that is wrong with them: at least one finding.
    fn scripts(&mut self, sources: Vec<Source>) -> Result<Provided, Vec<Finding>>;

    /// Holds its scripts against the scene, once that is read.
    ///
    /// # Errors
    /// Everything in them that does not fit: at least one finding.
    fn complete(&mut self, scene: &Scene) -> Result<(), Vec<Finding>>;
}

/// What the scripts of a scene provide.
///
/// ```
/// use hazuro_format::Provided;
/// let ring = Provided { functions: vec!["ring".into()], ..Provided::default() };
/// assert!(ring.counts.is_empty() && ring.flags.is_empty());
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Provided {
    /// The functions that reactions may call.
    pub functions: Vec<String>,
    /// The counts that scripts change. They need not be declared; each starts at 0.
    pub counts: BTreeSet<String>,
    /// The flags that scripts set. They need not be declared; each starts lowered.
    pub flags: BTreeSet<String>,
}

/// No language: conditions, formulas and scripts are refused.
///
/// ```
/// use hazuro_format::{NoLanguage, Source, read_scene_with};
/// let source = Source::new("yard.toml", "[scene]\nscripts = [\"yard.rhai\"]\n");
/// let file = |path: &std::path::Path| Ok(Source::new(path.to_string_lossy(), "fn ring() {}"));
/// let findings = read_scene_with(&source, &mut NoLanguage, &file).unwrap_err();
/// assert_eq!(findings[0].code(), "no-language");
/// ```
#[derive(Clone, Copy, Debug, Default)]
pub struct NoLanguage;

/// What there is no language for, and the cure.
const NONE: &str = "this program reads no conditions, formulas or scripts";
const NONE_HELP: &str = "leave them out, or load the scene with the crate `hazuro-script`";

impl Language for NoLanguage {
    fn condition(&self, _: &str, _: &Known) -> Result<Condition, BadExpression> {
        Err(BadExpression::new(NONE).with_help(NONE_HELP))
    }

    fn formula(&self, _: &str, _: &Known) -> Result<Formula, BadExpression> {
        Err(BadExpression::new(NONE).with_help(NONE_HELP))
    }

    fn scripts(&mut self, sources: Vec<Source>) -> Result<Provided, Vec<Finding>> {
        let refused = |source: &Source| {
            let finding = Finding::new(Severity::Error, Code::NoLanguage, NONE);
            finding.at(source, 0..0).with_help(NONE_HELP)
        };
        let findings: Vec<_> = sources.iter().map(refused).collect();
        if findings.is_empty() { Ok(Provided::default()) } else { Err(findings) }
    }

    fn complete(&mut self, _: &Scene) -> Result<(), Vec<Finding>> {
        Ok(())
    }
}

/// The counts, flags, stats and slots that an expression may name.
///
/// ```
/// use hazuro::Scene;
/// use hazuro_format::Known;
/// let scene = Scene::builder("Yard").count("rings", 0).build()?;
/// assert!(Known::of_scene(&scene).counts.contains("rings"));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Known {
    /// The counts.
    pub counts: BTreeSet<String>,
    /// The flags.
    pub flags: BTreeSet<String>,
    /// The stats.
    pub stats: BTreeSet<String>,
    /// The slots, and what those of this name are for.
    pub slots: BTreeMap<String, Vec<SlotSort>>,
}

impl Known {
    /// What a scene names.
    pub fn of_scene(scene: &Scene) -> Self {
        let mut known = Self {
            counts: scene.count_names().map(Into::into).collect(),
            flags: scene.flag_names().map(Into::into).collect(),
            stats: scene.stat_names().iter().cloned().collect(),
            ..Self::default()
        };
        let kinds = scene.kinds().iter().map(Kind::own_slots);
        let entities = scene.ids().map(|entity| scene.entity(entity).own_slots());
        for (name, slot) in kinds.chain(entities).flatten() {
            known.name_slot(name, slot.sort());
        }
        known
    }

    /// Takes in a slot.
    pub(crate) fn name_slot(&mut self, name: &str, sort: SlotSort) {
        let sorts = self.slots.entry(name.into()).or_default();
        if !sorts.contains(&sort) {
            sorts.push(sort);
        }
    }
}

/// An expression that cannot be used.
///
/// ```
/// use hazuro_format::BadExpression;
/// let bad = BadExpression::new("there is no count named `rigns`").at(6).with_help("did you mean `rings`?");
/// assert_eq!((bad.message.as_str(), bad.column), ("there is no count named `rigns`", 6));
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BadExpression {
    /// What is wrong.
    pub message: String,
    /// Where in it, in characters from 0.
    pub column: usize,
    /// The cure, if it can be said.
    pub help: Option<Cure>,
}

impl BadExpression {
    /// With a message, about its start.
    pub fn new(message: impl Into<String>) -> Self {
        Self { message: message.into(), column: 0, help: None }
    }

    /// At another column, in characters from 0.
    #[must_use]
    pub fn at(self, column: usize) -> Self {
        Self { column, ..self }
    }

    /// With how to cure it.
    #[must_use]
    pub fn with_help(self, help: impl Into<Cure>) -> Self {
        Self { help: Some(help.into()), ..self }
    }

    /// The finding about it, at its place in a file that has the expression `text` in a field.
    pub fn finding(
        &self,
        source: &Source,
        spans: Option<&Spans>,
        field: &Field,
        text: &str,
    ) -> Finding {
        let span = spans.map_or(0..0, |spans| spans.find(field));
        let usual = "a condition is an expression, as in count.tokens >= 4";
        Finding::new(Severity::Error, Code::BadExpression, &self.message)
            .at(source, within(source.text(), span, text, self.column))
            .with_help(self.help.clone().unwrap_or_else(|| usual.into()))
    }
}

/// The bytes of what stands at a column of an expression, if the file has the expression as it
/// is, without escapes; else the whole expression.
fn within(whole: &str, span: Range<usize>, text: &str, column: usize) -> Range<usize> {
    let Some(start) = whole.get(span.clone()).and_then(|quoted| quoted.find(text)) else {
        return span;
    };
    let start = span.start + start;
    let Some((offset, _)) = text.char_indices().nth(column) else {
        return start..start + text.len();
    };
    let word = text[offset..].chars().take_while(|c| c.is_alphanumeric() || *c == '_');
    let length = word.map(char::len_utf8).sum::<usize>().max(1);
    start + offset..start + offset + length
}
