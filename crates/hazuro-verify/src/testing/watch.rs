//! Watching values change.

use hazuro::scene::{EntityId, Fault};
use hazuro::why::Witness;
use hazuro::{Entry, Play, Scene, Time};
use hazuro_format::{Code, Cure, Finding, Known, Severity};
use hazuro_script::Expression;

/// A value to watch: an expression, with somebody as its `who` if need be.
///
/// ```
/// use hazuro_format::Source;
/// use hazuro_script::read_scene;
/// use hazuro_verify::Watched;
/// let scene = read_scene(&Source::new("yard.toml", r#"
/// [scene]
/// counts = { tokens = 0 }
///
/// [[entity]]
/// name = "miller"
/// "#)).unwrap();
/// assert!(Watched::new("count.tokens", &scene).is_ok());
/// assert!(Watched::new("miller: who.x", &scene).is_ok());
/// assert!(Watched::new("count.tokns", &scene).is_err());
/// ```
#[derive(Debug)]
pub struct Watched {
    text: String,
    who: Option<EntityId>,
    program: Expression,
}

/// A value that was watched and is another now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Changed {
    /// When it was first seen to be another.
    pub time: Time,
    /// What was watched, as it was written.
    pub text: String,
    /// What it was.
    pub was: String,
    /// What it is.
    pub is: String,
    /// The last thing that happened at that moment, if anything did: what changed it.
    pub event: Option<usize>,
}

/// How often a value is looked at while nothing happens.
const EVERY: Time = Time::from_nanos(250_000_000);

impl Watched {
    /// Reads `EXPRESSION`, or `NAME: EXPRESSION` where `who` is to mean an entity.
    ///
    /// # Errors
    /// If it is no expression, or names what the scene does not have.
    pub fn new(text: &str, scene: &Scene) -> Result<Self, Finding> {
        let finding = |code, message: String, help: Option<Cure>| {
            let finding = Finding::new(Severity::Error, code, message);
            match help {
                Some(help) => finding.with_help(help),
                None => finding,
            }
        };
        let of_fault = |fault: Fault| {
            finding(Code::from(&fault), fault.to_string(), hazuro_format::cure_of(&fault))
        };
        let is_name = |name: &str| !name.contains(['?', '"', '(', '#']);
        let (who, expression) = match text.split_once(": ").filter(|(name, _)| is_name(name)) {
            Some((name, rest)) => (Some(scene.entity_id(name.trim()).map_err(of_fault)?), rest),
            None => (None, text),
        };
        let program = Expression::new(expression, &Known::of_scene(scene)).map_err(|bad| {
            let message = format!("`{expression}` cannot be watched: {}", bad.message);
            finding(Code::BadExpression, message, bad.help)
        })?;
        if who.is_none() && program.asks_of_who() {
            let message = format!("whom does `who` mean in `{expression}`?");
            let help = format!("name somebody before it: \"miller: {expression}\"");
            return Err(finding(Code::MissingKey, message, Some(help.into())));
        }
        Ok(Self { text: text.into(), who, program })
    }

    /// What is watched, as it was written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The value now, in words.
    pub fn value(&self, play: &Play) -> String {
        let facts = play.facts_about(self.who).map_err(|fault| fault.to_string());
        match facts.and_then(|facts| self.program.value(&facts)) {
            Ok(value) => value.to_string(),
            Err(why) => format!("nothing ({why})"),
        }
    }
}

/// Somebody who watches values while a play goes on.
pub(super) struct Watching<'a> {
    watched: Vec<(&'a Watched, String)>,
    pub changed: Vec<Changed>,
}

impl<'a> Watching<'a> {
    pub fn new(watched: &'a [Watched], play: &Play) -> Self {
        let watched: Vec<_> = watched.iter().map(|it| (it, it.value(play))).collect();
        let first = watched.iter().map(|(it, value)| Changed {
            time: play.now(),
            text: it.text.clone(),
            was: String::new(),
            is: value.clone(),
            event: None,
        });
        let changed = first.collect();
        Self { watched, changed }
    }

    /// Whether nothing is watched.
    pub fn is_empty(&self) -> bool {
        self.watched.is_empty()
    }

    /// Plays until `until`, looking at each moment at which something happens, and now and then.
    pub fn advance<W: Witness>(
        &mut self,
        play: &mut Play,
        until: Time,
        witness: &mut W,
        entries: &mut Vec<Entry>,
    ) {
        while play.now() < until {
            let end = until.min(play.now() + EVERY);
            let happened = play.advance_moment(end, witness);
            let time = happened.first().map(Entry::time);
            entries.extend_from_slice(happened);
            let event = time.map(|_| entries.len() - 1);
            self.look(play, time.unwrap_or(play.now()), event);
        }
    }

    fn look(&mut self, play: &Play, time: Time, event: Option<usize>) {
        for (watched, was) in &mut self.watched {
            let is = watched.value(play);
            if is != *was {
                let was = std::mem::replace(was, is.clone());
                self.changed.push(Changed { time, text: watched.text.clone(), was, is, event });
            }
        }
    }
}
