//! What is suspicious about a scene that can be played.

use hazuro::scene::{Action, Admit, Detector, Detectors, Entity, Field, Kind, Switch};
use hazuro::{EntityId, Scene};

use crate::finding::{Finding, Severity};
use crate::source::Source;
use crate::spans::Spans;

mod texts;

/// Looks for detectors that nothing in the scene can set off, and for those that are likely to act
/// otherwise than meant. `source` is the text that the scene was read from.
pub fn check_scene(source: &Source, scene: &Scene) -> Vec<Finding> {
    let spans = Spans::of(source);
    let mut checker = Checker { source, scene, spans, findings: Vec::new() };
    for id in scene.ids() {
        checker.entity(id);
    }
    checker.rivals();
    texts::check(&mut checker);
    checker.findings.sort_by_key(Finding::start);
    checker.findings
}

struct Checker<'a> {
    source: &'a Source,
    scene: &'a Scene,
    spans: Option<Spans>,
    findings: Vec<Finding>,
}

impl Checker<'_> {
    fn warn(&mut self, field: &Field, code: &'static str, message: String, help: String) {
        let span = self.spans.as_ref().map_or(0..0, |spans| spans.find(field));
        let finding = Finding::new(Severity::Warning, code, message).with_help(help);
        self.findings.push(finding.at(self.source, span));
    }

    /// The place of a key of an entity, or else of its kind.
    fn place(&self, id: EntityId, key: &str, own: bool) -> Field {
        match self.scene.kind_of(id) {
            Some(kind) if !own => Field::ROOT.key("kind").key(kind.name()).key(key),
            _ => Field::ROOT.key("entity").item(id.index()).key(key),
        }
    }

    fn entity(&mut self, id: EntityId) {
        let scene = self.scene;
        let entity = scene.entity(id);
        let name = entity.name();
        let found: Vec<Detector> = Detector::ALL
            .into_iter()
            .filter(|sort| sort.opens().is_some() && scene.has(id, *sort))
            .collect();
        if found.is_empty() {
            if entity.own_admit().is_some() {
                let message = format!("`{name}` says whom to admit, but has no detector");
                let help = "give it a zone or another detector, or take `admit` away".into();
                let field = self.place(id, "admit", true);
                self.warn(&field, "admits-to-nothing", message, help);
            }
            return;
        }
        for detector in &found {
            self.never_set_off(id, *detector);
        }
        self.off_for_good(id, found[0]);
        self.details(id);
    }

    /// Whom a detector could detect, if it admitted them.
    fn subjects(&self, id: EntityId, detector: Detector) -> (Vec<EntityId>, &'static str) {
        let scene = self.scene;
        let bodies = |id: &EntityId| scene.has_body(*id);
        let players = |id: &EntityId| scene.has_body(*id) && scene.is_player(*id);
        let all = || scene.ids();
        let given = Given::of(scene, id);
        let among = |solids: bool, bodies: bool, zones: bool| {
            let found = all().filter(move |id| {
                (solids && scene.is_solid(*id))
                    || (bodies && scene.has_body(*id))
                    || (zones && scene.has_zone(*id))
            });
            found.collect()
        };
        match detector {
            Detector::Prompt => (all().filter(players).collect(), "is a player with a body"),
            Detector::Pointer => (all().filter(|id| scene.is_player(*id)).collect(), "is a player"),
            Detector::Footing => (among(true, false, false), "is solid"),
            Detector::Touch => {
                let solids = given.touch().is_some_and(|touch| touch.solids);
                (among(solids, true, false), "has a body")
            }
            Detector::Probe => {
                let among_told = given.probe().map(|probe| probe.among).unwrap_or_default();
                let what = "is of what it looks for";
                (among(among_told.solids, among_told.bodies, among_told.zones), what)
            }
            Detector::Seeker => {
                let told = given.seeker().map(|seeker| seeker.among).unwrap_or_default();
                (among(told.solids, told.bodies, told.zones), "is of what it looks for")
            }
            _ => (all().filter(bodies).collect(), "has a body"),
        }
    }

    fn never_set_off(&mut self, id: EntityId, detector: Detector) {
        let scene = self.scene;
        let name = scene.name(id).to_owned();
        let (subjects, what) = self.subjects(id, detector);
        let key = key_of(scene, id, detector);
        let own = Given::of(scene, id).is_own(detector);
        if subjects.is_empty() {
            let message = format!("nothing can set off `{name}`: no entity in the scene {what}");
            let help = match detector {
                Detector::Prompt | Detector::Pointer => "give an entity player = true",
                Detector::Footing => "give an entity a solid",
                _ => "give an entity a body",
            };
            self.warn(&self.place(id, key, own), "never-set-off", message, help.into());
            return;
        }
        // A detector does not detect its carrier, nor what it carries.
        let apart = |other: EntityId| {
            !scene.lineage(id).any(|up| up == other) && !scene.lineage(other).any(|up| up == id)
        };
        let able = |other: &EntityId| {
            detector == Detector::Footing || (scene.may_admit(id, *other) && apart(*other))
        };
        if subjects.iter().any(able) {
            return;
        }
        let rule = scene.entity(id).own_admit().is_some();
        let field = if rule { self.place(id, "admit", true) } else { self.place(id, key, own) };
        let message = format!("nothing can set off `{name}`: it admits no entity that {what}");
        let names: Vec<_> = subjects.iter().take(4).map(|id| scene.name(*id)).collect();
        let help = match detector {
            Detector::Zone | Detector::Sight => {
                format!("those with a body are {}: does one lack a tag?", names.join(", "))
            }
            _ => format!("there are {}: does one lack a tag?", names.join(", ")),
        };
        self.warn(&field, "never-set-off", message, help);
    }

    fn off_for_good(&mut self, id: EntityId, detector: Detector) {
        let scene = self.scene;
        let for_good =
            |id: &EntityId| !scene.starts_enabled(*id) && !can_be_switched_on(scene, *id);
        let Some(off) = scene.lineage(id).find(for_good) else { return };
        let name = scene.name(id);
        let off_name = scene.name(off);
        let message = if off == id {
            format!("nothing can set off `{name}`: it is off, and nothing switches it on")
        } else {
            format!(
                "nothing can set off `{name}`: its ancestor `{off_name}` is off, and nothing \
                 switches that on"
            )
        };
        let help = format!("add {{ enable = \"{off_name}\" }} to a reaction");
        let key = key_of(scene, id, detector);
        let field = if scene.entity(id).own_enabled().is_some() {
            self.place(id, "enabled", true)
        } else {
            self.place(id, key, Given::of(scene, id).is_own(detector))
        };
        self.warn(&field, "off-for-good", message, help);
    }

    /// What is likely to act otherwise than meant.
    fn details(&mut self, id: EntityId) {
        let scene = self.scene;
        let name = scene.name(id).to_owned();
        let given = Given::of(scene, id);
        if given.footing().is_some_and(|footing| footing.margin == 0.0) {
            let field = self.place(id, "footing", given.is_own(Detector::Footing)).key("margin");
            let message = format!("without a margin `{name}` flickers on uneven ground");
            let help = "give it some centimetres: margin = 0.1".into();
            self.warn(&field, "no-margin", message, help);
        }
        if given.probe().is_some_and(|probe| probe.own) && scene.owner(id).is_some() {
            let field = self.place(id, "probe", given.is_own(Detector::Probe)).key("own");
            let message = format!("the ray of `{name}` may hit the very body it belongs to first");
            self.warn(&field, "hits-itself", message, "take `own` away".into());
        }
        if scene.has(id, Detector::Pointer)
            && let Some(player) = scene.ids().find(|id| scene.is_player(*id))
            && scene.camera_of(player).is_none()
        {
            let field = self.place(id, "pointer", given.is_own(Detector::Pointer));
            let player = scene.name(player);
            let message = format!("nobody can point at `{name}`: `{player}` has no camera");
            let help = "add an entity with camera = {}, as a child of the player or on its own";
            self.warn(&field, "no-camera", message, help.into());
        }
        if let Some(prompt) = given.prompt() {
            let known: Vec<&str> = scene.count_names().collect();
            for count in prompt.needs.counts.keys().filter(|count| !known.contains(&count.as_str()))
            {
                let key = if prompt.quiet { "interact" } else { "prompt" };
                let field = self.place(id, key, given.is_own(Detector::Prompt));
                let field = field.key("needs").key("counts").key(count);
                let message = format!("`{name}` needs `{count}`, which nothing counts");
                let help = match hazuro::scene::nearest(count, known.iter().copied()) {
                    Some(nearest) => format!("did you mean `{nearest}`?"),
                    None => {
                        format!("let an action count it, or start it: counts = {{ {count} = 0 }}")
                    }
                };
                self.warn(&field, "never-met", message, help);
            }
        }
    }

    /// Prompts in one place for one key, of which only the first is ever offered.
    fn rivals(&mut self) {
        let scene = self.scene;
        let prompts: Vec<_> = scene
            .ids()
            .filter_map(|id| {
                let prompt = Given::of(scene, id).prompt()?.clone();
                let place = scene.pose(id).position;
                Some((id, prompt, place))
            })
            .filter(|(_, prompt, _)| !prompt.several && !prompt.quiet)
            .collect();
        for (index, (id, prompt, place)) in prompts.iter().enumerate() {
            let same = prompts[..index].iter().find(|(other, rival, at)| {
                rival.key == prompt.key
                    && rival.priority == prompt.priority
                    && at.distance(*place) < 0.01
                    && same_rule(scene, *id, *other)
            });
            if let Some((other, ..)) = same {
                let own = Given::of(scene, *id).is_own(Detector::Prompt);
                let field = self.place(*id, "prompt", own);
                let (name, other) = (scene.name(*id), scene.name(*other));
                let message =
                    format!("`{name}` always competes with `{other}`, which is offered instead");
                let help = "give it another key or a higher `priority`, or several = true".into();
                self.warn(&field, "always-competes", message, help);
            }
        }
    }
}

fn same_rule(scene: &Scene, one: EntityId, other: EntityId) -> bool {
    scene.admit_of(one).map(Admit::admitted) == scene.admit_of(other).map(Admit::admitted)
}

/// The key under which a detector stands.
fn key_of(scene: &Scene, id: EntityId, detector: Detector) -> &'static str {
    match detector {
        Detector::Prompt if Given::of(scene, id).prompt().is_some_and(|told| told.quiet) => {
            "interact"
        }
        other => other.word(),
    }
}

/// The detectors of an entity, its own or its kind's.
struct Given<'a> {
    own: &'a Entity,
    kind: Option<&'a Kind>,
}

macro_rules! given {
    ($($name:ident: $type:ident),*) => {
        $(fn $name(&self) -> Option<&'a hazuro::scene::$type> {
            self.find(|detectors| detectors.$name.as_ref())
        })*
    };
}

impl<'a> Given<'a> {
    fn of(scene: &'a Scene, id: EntityId) -> Self {
        Self { own: scene.entity(id), kind: scene.kind_of(id) }
    }

    fn find<T>(&self, of: fn(&'a Detectors) -> Option<&'a T>) -> Option<&'a T> {
        of(self.own.own_detectors()).or_else(|| of(self.kind?.own_detectors()))
    }

    given!(touch: Touch, probe: Probe, footing: Footing, seeker: Seeker, prompt: Prompt);

    /// Whether a detector is the entity's own and not its kind's.
    fn is_own(&self, detector: Detector) -> bool {
        let own = self.own.own_detectors();
        match detector {
            Detector::Zone => self.own.own_zone().is_some(),
            Detector::Touch => own.touch.is_some(),
            Detector::Pointer => own.pointer.is_some(),
            Detector::Prompt => own.prompt.is_some(),
            Detector::Probe => own.probe.is_some(),
            Detector::Footing => own.footing.is_some(),
            Detector::Sight => own.sight.is_some(),
            Detector::Seeker => own.seeker.is_some(),
            _ => true,
        }
    }
}

/// Whether some action may switch an entity on.
fn can_be_switched_on(scene: &Scene, entity: EntityId) -> bool {
    scene.reactions().iter().any(|reaction| {
        reaction.actions().any(|(.., action)| match action {
            // `who` and `on` may mean anybody.
            Action::Switch { what, switch: Switch::Enabled, to: Some(true) | None } => {
                ["who", "on"].contains(&what.as_str())
                    || scene.select(&what.as_str().into()).is_ok_and(|all| all.contains(&entity))
            }
            // A function may do anything.
            Action::Call(_) => true,
            _ => false,
        })
    })
}
