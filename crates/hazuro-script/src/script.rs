//! Scripts: functions that reactions call, and handlers that scripts register themselves.

use std::collections::BTreeSet;
use std::ops::Range;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;

use hazuro::scene::{Fault, Scene, Trigger};
use hazuro::{Act, Event, Failure, Place, Play};
use hazuro_format::{Code, Finding, Known, Provided, Severity, Source};
use rhai::{AST, CallFnOptions, Dynamic, EvalAltResult, FnPtr, Position};

use crate::calls;
use crate::engine::{Happening, MAX_STEPS, Registered, engine, registered_by};
use crate::lending::lent_to;
use crate::names::{self, span};
use crate::tree::misread;

/// The scripts of a scene, compiled and checked.
///
/// ```
/// use hazuro::{Play, scene::Action};
/// use hazuro_format::Source;
/// use hazuro_script::{Scripts, read_scene};
/// let scene = read_scene(&Source::new("yard.toml", "[scene]\ncounts = { rings = 0 }\n")).unwrap();
/// let script = Source::new("yard.rhai", "fn ring() { add(\"rings\", 2); }");
/// let scripts = Scripts::compile(vec![script], &scene).unwrap();
/// let mut play = Play::new(scene);
/// scripts.attach(&mut play).unwrap();
/// play.act(Action::call("ring")).unwrap();
/// play.step();
/// assert_eq!(play.count("rings"), 2);
/// ```
#[derive(Clone, Debug, Default)]
pub struct Scripts(Arc<Vec<Script>>);

/// One file.
#[derive(Debug)]
pub(crate) struct Script {
    source: Source,
    tree: AST,
    handlers: Vec<Registered>,
}

impl Scripts {
    /// Whether a script may do something that this word stands for: it has the word, or none of
    /// them is known.
    pub fn may(&self, word: &str) -> bool {
        let has = |text: &str| {
            text.split(|c: char| !(c.is_alphanumeric() || c == '_')).any(|it| it == word)
        };
        self.0.is_empty() || self.0.iter().any(|script| has(script.source.text()))
    }

    /// Compiles scripts, looks up every function they call, and lets them register their handlers.
    ///
    /// # Errors
    /// Everything that is wrong with them: at least one finding.
    pub fn compile(sources: Vec<Source>, scene: &Scene) -> Result<Self, Vec<Finding>> {
        Self::of(parse(sources)?, scene)
    }

    /// Lets parsed scripts register their handlers.
    pub(crate) fn of(mut scripts: Vec<Script>, scene: &Scene) -> Result<Self, Vec<Finding>> {
        let mut findings = Vec::new();
        let known = Known::of_scene(scene);
        for script in &mut scripts {
            findings.extend(names::wrong(&script.source, &script.tree, (scene, &known)));
            match registered_by(&script.tree) {
                Ok(handlers) => script.handlers = handlers,
                Err(error) => findings.push(located(&script.source, *error)),
            }
            for handler in &script.handlers {
                findings.extend(handler.triggers.iter().filter_map(|trigger| {
                    let fault = wrong_with(scene, trigger)?;
                    let at = span(&script.source, handler.place);
                    Some(Finding::of_fault(&fault).at(&script.source, at))
                }));
            }
        }
        if findings.is_empty() { Ok(Self(Arc::new(scripts))) } else { Err(findings) }
    }

    /// The functions that reactions may call: those without parameters, and those with one for
    /// the event.
    pub fn functions(&self) -> Vec<String> {
        self.0.iter().flat_map(|script| functions_of(&script.tree)).collect()
    }

    /// Gives a play its functions and handlers.
    ///
    /// # Errors
    /// If the play is of another scene, which lacks what a handler waits for.
    pub fn attach(&self, play: &mut Play) -> Result<(), Fault> {
        for (index, script) in self.0.iter().enumerate() {
            for name in functions_of(&script.tree) {
                let scripts = self.0.clone();
                let function = FnPtr::new(&name);
                let takes_event = takes_event(&script.tree, &name);
                play.routine(&name, move |event, act| {
                    scripts[index].run(function.as_ref().ok(), takes_event, event, act)
                });
            }
            for handler in &script.handlers {
                let takes_event = takes_event(&script.tree, handler.run.fn_name());
                for trigger in &handler.triggers {
                    let (scripts, function) = (self.0.clone(), handler.run.clone());
                    play.on(trigger.clone(), move |event: &Event, act: &mut Act<'_>| {
                        scripts[index].run(Some(&function), takes_event, event, act)
                    })?;
                }
            }
        }
        Ok(())
    }

    /// The keys of texts that scripts say as they stand there: each with its script and its bytes.
    pub fn said(&self) -> Vec<(String, &Source, Range<usize>)> {
        let mut said = Vec::new();
        for Script { source, tree, .. } in self.0.iter() {
            said.extend(names::said(source, tree).into_iter().map(|(key, at)| (key, source, at)));
        }
        said
    }

    /// The cues that scripts send, as far as their names stand there.
    pub fn cues(&self) -> BTreeSet<String> {
        self.0.iter().flat_map(|script| names::sent(&script.tree)).collect()
    }

    /// The cues that handlers of scripts wait for.
    pub fn awaited_cues(&self) -> BTreeSet<String> {
        let handlers = self.0.iter().flat_map(|script| &script.handlers);
        let triggers = handlers.flat_map(|handler| &handler.triggers);
        let cue = |trigger: &Trigger| match trigger {
            Trigger::Cue(name) => Some(name.clone()),
            _ => None,
        };
        triggers.filter_map(cue).collect()
    }

    /// The text of a script by its file's name.
    pub fn source(&self, name: &str) -> Option<&Source> {
        self.0.iter().map(|script| &script.source).find(|source| source.name() == name)
    }
}

/// Compiles scripts whose scene is yet to be read.
pub(crate) fn parse(sources: Vec<Source>) -> Result<Vec<Script>, Vec<Finding>> {
    let (mut scripts, mut findings) = (Vec::new(), Vec::new());
    let mut seen = BTreeSet::new();
    for source in sources {
        let tree = match engine().compile(source.text()) {
            Ok(tree) => tree,
            Err(error) => {
                let place = span(&source, error.position());
                let word = &source.text()[place.clone()];
                let message = misread(error.err_type(), word).replace("Script", "The script");
                let finding = Finding::new(Severity::Error, Code::BadScript, message);
                findings.push(finding.at(&source, place));
                continue;
            }
        };
        findings.extend(calls::wrong(&source, &tree));
        for name in functions_of(&tree) {
            if !seen.insert(name.clone()) {
                let message = format!("there is already a function named `{name}`");
                let finding = Finding::new(Severity::Error, Code::DuplicateName, message);
                findings.push(finding.at(&source, named_at(&source, &name)));
            }
        }
        scripts.push(Script { source, tree, handlers: Vec::new() });
    }
    if findings.is_empty() { Ok(scripts) } else { Err(findings) }
}

/// Those functions that can be called with an event: not the nameless ones, nor those that take
/// more.
fn functions_of(tree: &AST) -> Vec<String> {
    let mut names: Vec<String> = tree
        .iter_functions()
        .filter(|function| function.params.len() <= 1 && !function.name.starts_with("anon$"))
        .map(|function| function.name.to_owned())
        .collect();
    names.sort_unstable();
    names.dedup();
    names
}

fn takes_event(tree: &AST, name: &str) -> bool {
    !tree.iter_functions().any(|function| function.name == name && function.params.is_empty())
}

/// What a play would say to a handler for this.
fn wrong_with(scene: &Scene, trigger: &Trigger) -> Option<Fault> {
    let event = trigger.event();
    if let Some(stat) = trigger.stat_name()
        && let Err(fault) = scene.stat_id(stat)
    {
        return Some(fault);
    }
    let selector = trigger.detectors()?;
    let found = match scene.select(selector) {
        Ok(found) => found,
        Err(fault) => return Some(fault),
    };
    let detector = event.detector()?;
    let tagged = matches!(selector, hazuro::scene::Selector::Tag(_));
    let has = found.iter().any(|on| scene.has(*on, detector));
    let name = selector.to_string();
    (!has && !tagged).then_some(Fault::NoDetector { event, detector, name, relative: None })
}

impl Script {
    /// Adds the functions that can be called with an event, and what it changes.
    pub(crate) fn provide(&self, provided: &mut Provided) {
        provided.functions.extend(functions_of(&self.tree));
        names::raised(&self.tree, provided);
    }

    /// Runs one of its functions.
    fn run(
        &self,
        function: Option<&FnPtr>,
        takes_event: bool,
        event: &Event,
        act: &mut Act<'_>,
    ) -> Result<(), Failure> {
        let Some(function) = function else { return Ok(()) };
        let told = Happening::of(event);
        // A panic is caught here, where what was lent can be given back.
        let outcome = act.lend(|lent| {
            lent_to(lent, || {
                catch_unwind(AssertUnwindSafe(|| {
                    let name = function.fn_name();
                    // So that what is done can say where it stands.
                    let file = Dynamic::from(self.source.name().to_owned());
                    let options = CallFnOptions::new().eval_ast(false).with_tag(file);
                    let mut scope = rhai::Scope::new();
                    let (engine, tree) = (engine(), &self.tree);
                    if takes_event {
                        let args = (told,);
                        engine
                            .call_fn_with_options::<Dynamic>(options, &mut scope, tree, name, args)
                    } else {
                        engine.call_fn_with_options::<Dynamic>(options, &mut scope, tree, name, ())
                    }
                }))
            })
        });
        match outcome {
            Ok(Ok(_)) => Ok(()),
            Ok(Err(error)) => Err(self.failure(function.fn_name(), *error)),
            Err(_) => Err(Failure::from("the script engine panicked".to_owned())),
        }
    }

    fn failure(&self, function: &str, error: EvalAltResult) -> Failure {
        let (message, position) = innermost(error);
        // Where nothing is known of the place, the function at least is.
        let named = || self.source.line_and_column(named_at(&self.source, function).start);
        let here = position.line().zip(position.position());
        let (line, column) = here.unwrap_or_else(named);
        Failure { message, place: Some(Place { file: self.source.name().into(), line, column }) }
    }
}

/// What went wrong where it went wrong, whoever called whom.
fn innermost(error: EvalAltResult) -> (String, Position) {
    match error {
        EvalAltResult::ErrorInFunctionCall(_, _, inner, outer) => {
            let (message, place) = innermost(*inner);
            (message, if place.is_none() { outer } else { place })
        }
        mut error => {
            let position = error.take_position();
            let message = match &error {
                EvalAltResult::ErrorTooManyOperations(_) => {
                    format!("it takes more than {MAX_STEPS} steps")
                }
                EvalAltResult::ErrorStackOverflow(_) => "its functions call too deeply".into(),
                EvalAltResult::ErrorRuntime(value, _) => value.to_string(),
                error => error.to_string(),
            };
            (message, position)
        }
    }
}

fn located(source: &Source, error: EvalAltResult) -> Finding {
    let (message, position) = innermost(error);
    Finding::new(Severity::Error, Code::BadScript, message).at(source, span(source, position))
}

fn named_at(source: &Source, name: &str) -> Range<usize> {
    let found = source.text().rfind(&format!("fn {name}")).map_or(0, |at| at + 3);
    found..(found + name.len()).min(source.text().len())
}
