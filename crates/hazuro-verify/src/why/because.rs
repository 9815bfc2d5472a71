//! What an entry came of, in words: who did it, where that stands, and the event before.

use std::cell::OnceCell;

use hazuro::scene::{Field, ReactionId, ResolvedAction, slot_reference};
use hazuro::why::History;
use hazuro::{By, EntityId, Entry, Event, Happening, Input, Life, Origin, Scene, Step, Time};
use hazuro_format::{Source, Spans};

use crate::tape::Tape;
use crate::words::{came_of, describe, done, life_words, of_reaction};

use super::answer::{Link, micros};

/// The most links of a chain that are told in a sentence.
const TOLD: usize = 7;

/// Puts into words what came of what.
pub(super) struct Because<'a> {
    pub scene: &'a Scene,
    pub history: History<'a>,
    /// The text of the scene, if it is known, and where its fields stand: found when first asked.
    source: Option<&'a Source>,
    spans: OnceCell<Option<Spans>>,
    /// What was given to the play, in order.
    inputs: &'a [(Time, Input)],
    /// Where that was written, if it was.
    tape: Option<&'a Tape>,
}

/// What an entry came of, the nearest first: back to what was given to the play, `inputs` in their
/// order, or to its start. With the text of its scene reactions have lines.
pub fn chain_of(
    (scene, source): (&Scene, Option<&Source>),
    inputs: &[(Time, Input)],
    entries: &[Entry],
    number: u64,
) -> Vec<Link> {
    let (history, spans) = (History::new(entries), OnceCell::new());
    let because = Because { scene, history, source, spans, inputs, tape: None };
    because.links(number).into_iter().skip(1).collect()
}

impl<'a> Because<'a> {
    pub fn new(tape: &'a Tape, entries: &'a [Entry]) -> Self {
        let source = tape.scene_source.as_ref();
        let (scene, inputs) = (&*tape.scene, &tape.inputs[..]);
        let (history, spans) = (History::new(entries), OnceCell::new());
        Self { scene, history, source, spans, inputs, tape: Some(tape) }
    }

    /// The file and line of a field of the scene.
    pub fn place(&self, field: &Field) -> Option<String> {
        let source = self.source?;
        let spans = self.spans.get_or_init(|| Spans::of(source));
        let at = spans.as_ref()?.find(field).start;
        Some(format!("{}:{}", file_name(source), source.line_and_column(at).0))
    }

    /// The file and line of a key of an entity.
    pub fn entity_place(&self, entity: EntityId, key: &str) -> Option<String> {
        let described = self.scene.described().any(|it| it == entity);
        let field = self.scene.field(entity);
        described.then(|| self.place(&field.key(key))).flatten()
    }

    /// A reaction by its name or number, with the line it stands on.
    pub fn reaction(&self, reaction: ReactionId) -> String {
        let place = self.place(&Field::ROOT.key("reaction").item(reaction.index()));
        let place = place.map_or(String::new(), |place| format!(" ({place})"));
        format!("{}{place}", of_reaction(self.scene, reaction))
    }

    /// Who did what an entry tells of, and where that stands.
    fn doer(&self, entry: &Entry) -> String {
        let by = match entry.by() {
            Some(By::Reaction(reaction)) => match &entry.step {
                // Where there is one action, there is no question which.
                Some(Step::Action(step)) if self.scene.reaction(reaction).actions().count() > 1 => {
                    format!("action {} of {}", step + 1, self.reaction(reaction))
                }
                _ => format!("{}{}", self.reaction(reaction), self.repeats(reaction)),
            },
            Some(By::Handler(number)) => format!("handler {}", number + 1),
            Some(By::Detector(on)) => format!("the pickup `{}`", self.scene.name(on)),
            Some(By::Host) | None => String::new(),
        };
        match &entry.step {
            Some(Step::Line(place)) => {
                let file = place.file.rsplit(['/', '\\']).next().unwrap_or_default();
                format!("{file}:{} in {by}", place.line)
            }
            _ => by,
        }
    }

    /// That a reaction repeats what it does.
    fn repeats(&self, reaction: ReactionId) -> String {
        let every = self.scene.reaction(reaction).repetition().0;
        every.map_or(String::new(), |every| format!(", which repeats it: every = {every}"))
    }

    /// An action that was done, with who did it.
    fn deed(&self, entry: &Entry, action: &ResolvedAction) -> String {
        let what = format!("{}{}", describe(self.scene, action), self.as_written(entry));
        match self.doer(entry) {
            by if by.is_empty() => format!("`{what}`"),
            by => format!("`{what}` by {by}"),
        }
    }

    /// The slots and formulas of an action of a reaction: what they came to is in the action that was done.
    fn as_written(&self, entry: &Entry) -> String {
        let (Some(By::Reaction(reaction)), Some(Step::Action(step))) = (entry.by(), &entry.step)
        else {
            return String::new();
        };
        let spec = self.scene.reaction(reaction);
        let Some((.., action)) = spec.actions().nth(*step) else { return String::new() };
        let mut written = Vec::new();
        let _ = action.try_map(|name, key, _| {
            if slot_reference(name).is_some() {
                written.push(format!("{key} = {name}"));
            }
            Ok::<_, ()>(())
        });
        let formulas = action.formulas();
        written.extend(formulas.iter().map(|(key, it)| format!("{key} = {}", it.text())));
        if written.is_empty() { String::new() } else { format!(" ({})", written.join(", ")) }
    }

    /// How long a reaction waits, if that is worked out.
    pub fn delay(&self, reaction: ReactionId, life: Life) -> String {
        let delay = self.scene.reaction(reaction).delay();
        match (life, delay.formula()) {
            (Life::Waits { arrival: None, .. }, Some(formula)) => {
                format!(" (after = {})", formula.text())
            }
            _ => String::new(),
        }
    }

    /// What an entry tells, in words.
    pub fn told(&self, entry: &Entry) -> String {
        match &entry.what {
            Happening::Event(event) => event_words(self.scene, event),
            Happening::Did { action, .. } => self.deed(entry, action),
            Happening::Refused { action, why, .. } => {
                let why = why.words(self.scene);
                format!("{} was refused: {why}", self.deed(entry, action))
            }
            Happening::Said { key, to, .. } => {
                let to = to.map_or(String::new(), |to| format!(" to {}", self.scene.name(to)));
                format!("`say {key}{to}` by {}", self.doer(entry))
            }
            Happening::Run { reaction, life, .. } => {
                let life_words = life_words(self.scene, *life);
                let delay = self.delay(*reaction, *life);
                format!("{} {life_words}{delay}", self.reaction(*reaction))
            }
            _ => came_of(self.scene, entry).unwrap_or_default(),
        }
    }

    /// What an entry came of, back to the tape or the start, as the rest of a sentence. Empty if
    /// there is nothing before it.
    pub fn since(&self, number: u64) -> String {
        let mut words = Vec::new();
        let Some(first) = self.history.entry(number) else { return String::new() };
        let is_sent =
            |event: &Event| event.cue.is_some() || event.cause == Some(hazuro::Cause::Hand);
        let mut sent = first.event().is_some_and(is_sent);
        let mut root = first.origin;
        let mut time = first.time();
        // Where the host does at once what the tape says, that has been said.
        let mut said = is_by_host(first);
        for entry in self.history.back(number).skip(1) {
            root = entry.origin;
            said = is_by_host(entry);
            let at = if entry.time() == time {
                String::new()
            } else {
                format!(" at {:#} s", entry.time())
            };
            let was_sent = std::mem::take(&mut sent);
            match &entry.what {
                Happening::Event(event) => {
                    sent = is_sent(event);
                    words.push(format!("on {}{at}", event_words(self.scene, event)));
                }
                Happening::Did { .. } if was_sent => {
                    let by = self.doer(entry);
                    if !by.is_empty() {
                        words.push(format!("sent by {by}{at}"));
                    }
                }
                // It shows in what is done.
                Happening::Run { life: Life::Begins | Life::Done, .. } => continue,
                _ => words.push(format!("by {}{at}", self.told(entry))),
            }
            time = entry.time();
        }
        if words.len() > TOLD {
            let left_out = words.len() - TOLD + 1;
            let end = words.split_off(words.len() - 2);
            words.truncate(TOLD - 3);
            words.push(format!("{left_out} more between"));
            words.extend(end);
        }
        words.extend(self.root(root, said));
        words.join(", ")
    }

    /// What stands at the beginning of a chain; `said` is whether it has been said what it does.
    fn root(&self, root: Origin, said: bool) -> Option<String> {
        match root {
            Origin::Start => Some("from the start".into()),
            Origin::Input(number) => {
                let line = self.tape.and_then(|it| it.line_of(number as usize));
                let by = match line {
                    Some(line) => format!("by line {line} of the tape"),
                    None => format!("by input {} of the host", number + 1),
                };
                Some(match self.inputs.get(number as usize) {
                    Some((time, _)) if said => format!("{by} at {time:#} s"),
                    Some((time, input)) => {
                        format!("{by} at {time:#} s: {}", done(self.scene, input))
                    }
                    None => by,
                })
            }
            // It is older than what is known.
            Origin::Entry(_) => None,
        }
    }

    /// An entry with its time and what it came of, as a sentence.
    pub fn sentence(&self, entry: &Entry) -> String {
        let since = self.since(entry.number);
        let since = if since.is_empty() { since } else { format!(", {since}") };
        format!("at {:#} s {}{since}", entry.time(), self.told(entry))
    }

    /// An entry as a link of a chain.
    pub fn link(&self, entry: &Entry) -> Link {
        let (t, n) = (micros(entry.time().secs()), Some(entry.number));
        Link { t, n, what: self.told(entry), place: None }
    }

    /// The chain of causes of an entry, the nearest first.
    pub fn links(&self, number: u64) -> Vec<Link> {
        let mut links = Vec::new();
        let mut root = Origin::Entry(number);
        for entry in self.history.back(number) {
            root = entry.origin;
            if entry.goes_without_saying() {
                continue;
            }
            links.push(self.link(entry));
        }
        if let Origin::Input(number) = root
            && let Some((time, input)) = self.inputs.get(number as usize)
        {
            let place = self.tape.and_then(|tape| {
                let line = tape.line_of(number as usize)?;
                Some(format!("{}:{line}", file_name(&tape.source)))
            });
            let what = done(self.scene, input);
            links.push(Link { t: micros(time.secs()), n: None, what, place });
        } else if root == Origin::Start {
            links.push(Link { t: 0.0, n: None, what: "the start of the play".into(), place: None });
        }
        links
    }
}

/// Whether an entry tells of what the host or a tape does.
fn is_by_host(entry: &Entry) -> bool {
    entry.by() == Some(By::Host) && entry.action().is_some()
}

/// The last part of the name of a file.
fn file_name(source: &Source) -> &str {
    source.name().rsplit(['/', '\\']).next().unwrap_or_default()
}

/// An event in words, as in `` `enter pad` by ada ``.
pub(super) fn event_words(scene: &Scene, event: &Event) -> String {
    let on = event.cue.as_deref().or_else(|| event.on.map(|on| scene.name(on)));
    let on = on.map_or(String::new(), |on| format!(" {on}"));
    let who = event.who.filter(|who| event.on != Some(*who));
    let who = who.map_or(String::new(), |who| format!(" by {}", scene.name(who)));
    let reading = event.reading.map_or(String::new(), |it| {
        let (was, is) = (crate::words::round(it.was), crate::words::round(it.is));
        format!(" ({} {was} → {is})", scene.stat_name(it.stat))
    });
    format!("`{}{on}`{who}{reading}", event.kind)
}
