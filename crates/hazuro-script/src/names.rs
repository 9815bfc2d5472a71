//! The names that a script uses, as far as they stand there as texts: looked up when it is loaded.

use std::ops::Range;

use hazuro::Scene;
use hazuro::scene::Fault;
use hazuro_format::{Code, Cure, Finding, Known, Provided, Severity, Source, read_action};
use rhai::{AST, ASTNode, Dynamic, Expr, Position};
use serde_json::{Map, Value};

use crate::engine::EVENT_FIELDS;
use crate::properties::{PROPERTIES, not_named};
use crate::tree::{call, chain, each_node, text_of};

/// The word at a place.
pub(crate) fn span(source: &Source, position: Position) -> Range<usize> {
    let line = position.line().unwrap_or(1);
    source.word_at(line, position.position().unwrap_or(1))
}

/// What is wrong with the names in a script, held against its scene and what that names.
pub(crate) fn wrong(source: &Source, tree: &AST, (scene, known): (&Scene, &Known)) -> Vec<Finding> {
    let mut findings = Vec::new();
    each_node(tree, &mut |node| {
        if let ASTNode::Expr(Expr::Dot(pair, ..)) = node {
            findings.extend(unknown_field(source, (&pair.lhs, &pair.rhs), known));
        }
        match call(node) {
            Some(("entity", [Expr::StringConstant(entity, position)])) => {
                findings.extend(no_entity(source, scene, (entity, *position)));
            }
            Some((sort @ ("count" | "flag"), [Expr::StringConstant(name, position)])) => {
                findings.extend(unnamed(source, known, sort, (name, *position)));
            }
            Some(("act", [keys])) => findings.extend(bad_action(source, keys, scene)),
            Some((question @ ("ray" | "sweep" | "overlap" | "nearest"), values)) => {
                let plain = if question == "sweep" { 3 } else { 2 };
                let places = values.iter().take(plain).filter_map(text_of);
                findings.extend(places.filter_map(|place| no_entity(source, scene, place)));
                for filter in values.iter().skip(plain) {
                    findings.extend(bad_filter(source, filter, scene));
                }
            }
            _ => {}
        }
    });
    findings
}

/// The counts and flags that a script changes, as far as their names stand there.
pub(crate) fn raised(tree: &AST, provided: &mut Provided) {
    each_node(tree, &mut |node| match call(node) {
        Some(("add" | "set", [Expr::StringConstant(name, _), _])) => {
            provided.counts.insert(name.to_string());
        }
        Some(("flag", [Expr::StringConstant(name, _), _])) => {
            provided.flags.insert(name.to_string());
        }
        Some(("act", [keys])) => {
            let Some((keys, _)) = value(keys) else { return };
            provided.counts.extend(text_under(&keys, "count"));
            provided.flags.extend(text_under(&keys, "flag"));
            let grant = &keys["grant"];
            for counts in ["counts", "own_counts"] {
                let counts = grant[counts].as_object().into_iter().flatten();
                provided.counts.extend(counts.map(|(name, _)| name.clone()));
            }
            let flags = grant["flags"].as_array().into_iter().flatten();
            provided.flags.extend(flags.filter_map(Value::as_str).map(ToOwned::to_owned));
        }
        _ => {}
    });
}

/// The text under a key of a table.
fn text_under(table: &Value, key: &str) -> Option<String> {
    table[key].as_str().map(ToOwned::to_owned)
}

/// The cues that a script sends, as far as their names stand there.
pub(crate) fn sent(tree: &AST) -> Vec<String> {
    let mut sent = Vec::new();
    each_node(tree, &mut |node| match call(node) {
        Some(("cue", [Expr::StringConstant(name, _)])) => sent.push(name.to_string()),
        Some(("act", [keys])) => {
            sent.extend(value(keys).and_then(|(keys, _)| text_under(&keys, "cue")));
        }
        _ => {}
    });
    sent
}

/// The keys of texts that a script says.
pub(crate) fn said(source: &Source, tree: &AST) -> Vec<(String, Range<usize>)> {
    let mut said = Vec::new();
    each_node(tree, &mut |node| {
        if let Some(("say", [Expr::StringConstant(key, position)])) = call(node) {
            said.push((key.to_string(), span(source, *position)));
        }
    });
    said
}

fn finding(source: &Source, position: Position, fault: &Fault) -> Finding {
    Finding::of_fault(fault).at(source, span(source, position))
}

fn no_entity(
    source: &Source,
    scene: &Scene,
    (name, position): (&str, Position),
) -> Option<Finding> {
    let fault = scene.entity_id(name).err()?;
    Some(finding(source, position, &fault))
}

/// A count, flag or stat that nothing in the scene names.
fn unnamed(
    source: &Source,
    known: &Known,
    sort: &str,
    (name, position): (&str, Position),
) -> Option<Finding> {
    let bad = not_named(known, sort, name)?;
    let finding = Finding::new(Severity::Error, Code::UnknownName, bad.message);
    let finding = finding.at(source, span(source, position));
    Some(match bad.help {
        Some(help) => finding.with_help(help),
        None => finding,
    })
}

/// What is wrong with the filter of a question, as far as it stands there.
fn bad_filter(source: &Source, filter: &Expr, scene: &Scene) -> Vec<Finding> {
    const KEYS: [&str; 4] = ["of", "layers", "tag", "without"];
    const SORTS: [&str; 3] = ["solids", "bodies", "zones"];
    let mut findings = Vec::new();
    for (key, place, value) in entries(filter) {
        if !KEYS.contains(&key.as_str()) {
            findings.push(unknown(source, place, ("a question", &key), &KEYS));
        }
        for (text, place) in texts(&value, place) {
            findings.extend(match key.as_str() {
                "without" => no_entity(source, scene, (&text, place)),
                "layers" => {
                    let fault = scene.layers([text.as_str()]).err();
                    fault.map(|fault| finding(source, place, &fault))
                }
                "of" if !SORTS.contains(&text.as_str()) => {
                    Some(unknown(source, place, ("a question", &text), &SORTS))
                }
                _ => None,
            });
        }
    }
    findings
}

/// The keys of a table that stands there, each with its place, or that of the table, and its value.
fn entries(table: &Expr) -> Vec<(String, Position, Expr)> {
    match table {
        Expr::Map(map, _) => {
            let each = map.0.iter();
            each.map(|(key, value)| (key.name.to_string(), key.pos, value.clone())).collect()
        }
        // What is all of one piece is put together when it is read.
        Expr::DynamicConstant(constant, place) => {
            let Some(map) = constant.read_lock::<rhai::Map>() else { return Vec::new() };
            let value = |value: &Dynamic| Expr::DynamicConstant(Box::new(value.clone()), *place);
            map.iter().map(|(key, it)| (key.to_string(), *place, value(it))).collect()
        }
        _ => Vec::new(),
    }
}

/// The texts that stand there, one or a list.
fn texts(value: &Expr, place: Position) -> Vec<(String, Position)> {
    match value {
        Expr::StringConstant(text, place) => vec![(text.to_string(), *place)],
        Expr::Array(items, _) => items.iter().flat_map(|item| texts(item, place)).collect(),
        Expr::DynamicConstant(constant, _) => match constant_value(constant) {
            Some(Value::String(text)) => vec![(text, place)],
            Some(Value::Array(items)) => {
                let each = items.into_iter();
                each.filter_map(|it| Some((it.as_str()?.to_owned(), place))).collect()
            }
            _ => Vec::new(),
        },
        _ => Vec::new(),
    }
}

/// What is asked of an event, or of an entity, that it has not, or that nothing names.
fn unknown_field(source: &Source, (of, asked): (&Expr, &Expr), known: &Known) -> Option<Finding> {
    let chain = chain(asked);
    match of {
        Expr::Variable(variable, ..) if variable.1 == "event" => {
            let (field, position) = chain.first()?;
            if !EVENT_FIELDS.contains(field) {
                return Some(unknown(source, *position, ("an event", field), &EVENT_FIELDS));
            }
            let is_entity = ["who", "on", "was"].contains(field);
            if is_entity { unknown_property(source, &chain[1..], known) } else { None }
        }
        Expr::FnCall(call, _) if call.name == "entity" => unknown_property(source, &chain, known),
        _ => None,
    }
}

/// What is asked of an entity that it has not, or that nothing names.
fn unknown_property(source: &Source, chain: &[(&str, Position)], known: &Known) -> Option<Finding> {
    let (asked, position) = chain.first()?;
    if !PROPERTIES.contains(asked) {
        return Some(unknown(source, *position, ("an entity", asked), PROPERTIES));
    }
    let wrong = unnamed(source, known, asked, *chain.get(1)?);
    // What is in a slot may be asked on.
    wrong.or_else(|| {
        let further = chain.get(2..).filter(|_| *asked == "slot")?;
        unknown_property(source, further, known)
    })
}

fn unknown(
    source: &Source,
    position: Position,
    (what, name): (&str, &str),
    known: &[&str],
) -> Finding {
    let message = format!("{what} has no `{name}`");
    let finding = Finding::new(Severity::Error, Code::UnknownName, message);
    let finding = finding.at(source, span(source, position));
    let all = || format!("it has {}", known.join(", "));
    finding.with_help(Cure::nearest(name, known.iter().copied(), all))
}

/// What is wrong with an action, as far as it stands there.
fn bad_action(source: &Source, keys: &Expr, scene: &Scene) -> Option<Finding> {
    let place = keys.position();
    let bad = |message: String| {
        let finding = Finding::new(Severity::Error, Code::BadAction, message);
        Some(finding.at(source, span(source, place)))
    };
    // What is worked out later is an entity or a number.
    for later in [Value::from(LATER), Value::from(1)] {
        let (keys, whole) = value_with(keys, &later)?;
        if !keys.is_object() {
            return None;
        }
        match read_action(keys) {
            // Otherwise only the keys are known.
            Err(why) if whole || why.starts_with("there is no key") => return bad(why),
            Err(_) => {}
            Ok(action) => {
                let stands_there = |fault: &Fault| match fault {
                    Fault::Unknown { name, .. } => whole || name != LATER,
                    _ => whole,
                };
                let fault = scene.faults_of(&action).into_iter().find(stands_there)?;
                let name = match &fault {
                    Fault::Unknown { name, .. } => quoted(source, place, name),
                    _ => None,
                };
                let at = name.unwrap_or_else(|| span(source, place));
                return Some(Finding::of_fault(&fault).at(source, at));
            }
        }
    }
    None
}

/// The first text after a place that is this word. What is all of one piece is put together when it is read,
/// and has no places of its own.
fn quoted(source: &Source, after: Position, word: &str) -> Option<Range<usize>> {
    let start = span(source, after).start;
    let found = source.text().get(start..)?.find(&format!("\"{word}\""))?;
    let first = start + found + 1;
    Some(first..first + word.len())
}

/// A word that stands for what a text turns out to be.
const LATER: &str = "who";

/// An expression as a value, and whether all of it stands there; what does not is told as a text.
fn value(expression: &Expr) -> Option<(Value, bool)> {
    value_with(expression, &Value::from(LATER))
}

/// The same with something else for what does not stand there.
fn value_with(expression: &Expr, later: &Value) -> Option<(Value, bool)> {
    Some(match expression {
        Expr::StringConstant(text, _) => (Value::String(text.to_string()), true),
        Expr::BoolConstant(flag, _) => (Value::Bool(*flag), true),
        Expr::IntegerConstant(number, _) => (Value::from(*number), true),
        Expr::FloatConstant(number, _) => (Value::from(**number), true),
        Expr::DynamicConstant(constant, _) => (constant_value(constant)?, true),
        Expr::Array(items, _) => {
            let (values, whole) = all(items.iter(), later)?;
            (Value::Array(values), whole)
        }
        Expr::Map(map, _) => {
            let (values, whole) = all(map.0.iter().map(|(_, value)| value), later)?;
            let keys = map.0.iter().map(|(key, _)| key.name.to_string());
            (Value::Object(keys.zip(values).collect()), whole)
        }
        _ => (later.clone(), false),
    })
}

fn all<'a>(items: impl Iterator<Item = &'a Expr>, later: &Value) -> Option<(Vec<Value>, bool)> {
    let mut whole = true;
    let values: Option<Vec<Value>> = items
        .map(|item| {
            let (value, is_whole) = value_with(item, later)?;
            whole &= is_whole;
            Some(value)
        })
        .collect();
    Some((values?, whole))
}

fn constant_value(constant: &Dynamic) -> Option<Value> {
    if let Some(map) = constant.read_lock::<rhai::Map>() {
        let each = map.iter().map(|(key, value)| Some((key.to_string(), constant_value(value)?)));
        return each.collect::<Option<Map<_, _>>>().map(Value::Object);
    }
    if let Some(list) = constant.read_lock::<rhai::Array>() {
        return list.iter().map(constant_value).collect::<Option<Vec<_>>>().map(Value::Array);
    }
    let whole = constant.as_int().map(Value::from);
    let number = || constant.as_float().map(Value::from);
    let flag = || constant.as_bool().map(Value::from);
    let text = || constant.clone().into_immutable_string().map(|text| Value::String(text.into()));
    whole.or_else(|_| number()).or_else(|_| flag()).or_else(|_| text()).ok()
}
