//! What is suspicious about a scene that can be played.

mod allow;
mod asked;
mod expressions;
mod formats;
mod kinds;
mod legs;
mod ownership;
mod places;
mod reach;
mod reactions;
mod repeats;
mod senses;
mod slots;
mod tape;
mod texts;
mod unheard;
mod values;

pub use formats::{findings_json, findings_sarif};
pub use tape::check_playtest;

use std::cell::OnceCell;
use std::collections::BTreeSet;
use std::sync::Arc;

use hazuro::scene::{Action, Field, Reaction, Switch};
use hazuro::{EntityId, Play, Scene};
use hazuro_format::{Code, Cure, Edit, Editor, Finding, Severity, Source, Spans};
use hazuro_script::Scripts;

use crate::meaning::{may_mean, meant};

/// Looks for detectors that nothing in the scene can set off, and for what is likely to act
/// otherwise than meant. `source` is the text that the scene was read from. What the scene allows
/// with a reason is left out.
///
/// What scripts do is not known: they might do anything. See [`check_scene_with`].
pub fn check_scene(source: &Source, scene: &Arc<Scene>) -> Vec<Finding> {
    check_scene_with(source, scene, &Scripts::default())
}

/// As [`check_scene`], with the scene's scripts, which do nothing that they have no word for.
pub fn check_scene_with(source: &Source, scene: &Arc<Scene>, scripts: &Scripts) -> Vec<Finding> {
    let mut checker = Checker::new(source, scene, scripts);
    reach::check(&mut checker);
    senses::check(&mut checker);
    reactions::check(&mut checker);
    repeats::check(&mut checker);
    places::check(&mut checker);
    texts::check(&mut checker);
    values::check(&mut checker);
    unheard::check(&mut checker);
    slots::check(&mut checker);
    legs::check(&mut checker);
    kinds::check(&mut checker);
    ownership::check(&mut checker);
    allow::settle(&mut checker);
    checker.findings()
}

/// Somebody who looks for what is suspicious.
struct Checker<'a> {
    source: &'a Source,
    scene: &'a Arc<Scene>,
    scripts: &'a Scripts,
    spans: OnceCell<Option<Spans>>,
    play: OnceCell<Play>,
    /// All texts in which something is asked for.
    texts: OnceCell<Vec<String>>,
    found: Vec<(Field, Finding)>,
}

impl<'a> Checker<'a> {
    fn new(source: &'a Source, scene: &'a Arc<Scene>, scripts: &'a Scripts) -> Self {
        let (spans, play, texts) = (OnceCell::new(), OnceCell::new(), OnceCell::new());
        Self { source, scene, scripts, spans, play, texts, found: Vec::new() }
    }

    /// The findings, in the order of the text, hints after all else.
    fn findings(self) -> Vec<Finding> {
        let mut findings: Vec<Finding> =
            self.found.into_iter().map(|(_, finding)| finding).collect();
        findings.sort_by_key(|finding| (finding.severity() == Severity::Hint, finding.start()));
        findings
    }

    fn warn(&mut self, field: &Field, code: Code, message: String, help: impl Into<Cure>) {
        self.find(Severity::Warning, field, code, message, help);
    }

    fn hint(&mut self, field: &Field, code: Code, message: String, help: impl Into<Cure>) {
        self.find(Severity::Hint, field, code, message, help);
    }

    fn find(
        &mut self,
        severity: Severity,
        field: &Field,
        code: Code,
        message: String,
        help: impl Into<Cure>,
    ) {
        // The text is taken apart only if there is something to point at.
        let spans = self.spans.get_or_init(|| Spans::of(self.source));
        let span = spans.as_ref().map_or(0..0, |spans| spans.find(field));
        let finding = Finding::new(severity, code, message).with_help(help);
        self.found.push((field.clone(), finding.at(self.source, span)));
    }

    /// Gives the last finding the edits of the scene's text that cure it, if they can be made.
    fn cure(&mut self, edits: impl FnOnce(Editor<'_>) -> Option<Vec<Edit>>) {
        let spans = self.spans.get().and_then(Option::as_ref);
        let edits = spans.and_then(|spans| edits(Editor::new(self.source, spans)));
        if let (Some(edits), Some((field, finding))) = (edits, self.found.pop()) {
            self.found.push((field, finding.with_edits(edits)));
        }
    }

    /// The names of one sort, as `slot`, that some expression or text of the scene asks for.
    fn asked_for(&self, sort: &str) -> BTreeSet<String> {
        let texts = self.texts.get_or_init(|| expressions::texts(self.scene));
        let names = texts.iter().flat_map(|text| asked::asked(text, sort));
        names.map(|(_, name)| name.to_owned()).collect()
    }

    /// The scene as it is when a play begins, to be asked what is where.
    fn play(&self) -> &Play {
        self.play.get_or_init(|| Play::new(Arc::clone(self.scene)))
    }

    /// The place of a key of an entity: with itself or with the kind that has it.
    fn place(&self, id: EntityId, key: &str) -> Field {
        let own = self.scene.field(id).key(key);
        let spans = self.spans.get_or_init(|| Spans::of(self.source));
        let there = |field: &Field| spans.as_ref().is_some_and(|it| it.contains(field));
        let kinds = self.scene.kinds_of(id).map(|kind| kind.field().key(key));
        [own.clone()].into_iter().chain(kinds).find(there).unwrap_or(own)
    }

    /// The entities that a name in an action may mean; `who` and `on` may mean anybody.
    fn meant(&self, name: &str) -> Option<Vec<EntityId>> {
        meant(self.scene, name)
    }
}

/// Whether some action may switch an entity on.
pub(crate) fn can_be_switched_on(scene: &Scene, scripts: &Scripts, entity: EntityId) -> bool {
    may_be_done(scene, scripts, &["enable", "toggle"], entity, |action| match action {
        Action::Switch { what, switch: Switch::Enabled, to: Some(true) | None } => Some(what),
        _ => None,
    })
}

/// Whether some action may convert an entity.
pub(crate) fn can_be_converted(scene: &Scene, scripts: &Scripts, entity: EntityId) -> bool {
    may_be_done(scene, scripts, &["convert"], entity, |action| match action {
        Action::Convert { what, .. } => Some(what),
        _ => None,
    })
}

/// Whether something may be done to an entity, by a script in these words or by an action to what is `meant`.
fn may_be_done(
    scene: &Scene,
    scripts: &Scripts,
    words: &[&str],
    entity: EntityId,
    meant: impl Fn(&Action) -> Option<&String>,
) -> bool {
    let called = words.iter().any(|word| scripts.may(word));
    let mut actions = scene.reactions().iter().flat_map(Reaction::actions);
    actions.any(|(.., action)| match action {
        Action::Call(_) => called,
        action => meant(action).is_some_and(|what| may_mean(scene, what, entity)),
    })
}
