//! The names that a script uses, as far as they stand there as texts: looked up when it is loaded.

use std::ops::Range;

use hazuro::Scene;
use hazuro_format::{Cure, Finding, Severity, Source, read_action};
use rhai::{AST, ASTNode, Dynamic, Expr, Position, Stmt};
use serde_json::{Map, Value};

use crate::engine::EVENT_FIELDS;
use crate::properties::PROPERTIES;

/// The word at a place.
pub(crate) fn span(source: &Source, position: Position) -> Range<usize> {
    let line = position.line().unwrap_or(1);
    source.word_at(line, position.position().unwrap_or(1))
}

/// What is wrong with the names in a script.
pub(crate) fn wrong(source: &Source, tree: &AST, scene: &Scene) -> Vec<Finding> {
    let mut findings = Vec::new();
    each_node(tree, &mut |node| {
        if let ASTNode::Expr(Expr::Dot(pair, ..)) = node {
            findings.extend(unknown_field(source, &pair.lhs, &pair.rhs));
        }
        match call(node) {
            Some(("entity", [Expr::StringConstant(entity, position)])) => {
                if let Err(fault) = scene.entity_id(entity.as_str()) {
                    findings.push(finding(source, *position, &fault));
                }
            }
            Some(("act", [keys])) => findings.extend(bad_action(source, keys, scene)),
            _ => {}
        }
    });
    findings
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

fn each_node(tree: &AST, see: &mut dyn FnMut(&ASTNode<'_>)) {
    tree.walk(&mut |nodes: &[ASTNode<'_>]| {
        nodes.last().into_iter().for_each(&mut *see);
        true
    });
}

/// The name and the arguments of a call.
fn call<'a>(node: &'a ASTNode<'_>) -> Option<(&'a str, &'a [Expr])> {
    let (ASTNode::Expr(Expr::FnCall(call, _)) | ASTNode::Stmt(Stmt::FnCall(call, _))) = node else {
        return None;
    };
    Some((call.name.as_str(), &call.args))
}

fn finding(source: &Source, position: Position, fault: &hazuro::scene::Fault) -> Finding {
    let finding = Finding::new(Severity::Error, fault.code(), fault.to_string());
    let finding = finding.at(source, span(source, position));
    match hazuro_format::cure_of(fault) {
        Some(cure) => finding.with_help(cure),
        None => finding,
    }
}

/// A field that no event has, or no entity.
fn unknown_field(source: &Source, of: &Expr, asked: &Expr) -> Option<Finding> {
    let Expr::Variable(variable, ..) = of else { return None };
    if variable.1 != "event" {
        return None;
    }
    let (first, rest) = match asked {
        Expr::Dot(pair, ..) => (&pair.lhs, Some(&pair.rhs)),
        other => (other, None),
    };
    let (field, position) = property(first)?;
    if !EVENT_FIELDS.contains(&field) {
        return Some(unknown(source, position, ("an event", field), &EVENT_FIELDS));
    }
    let (asked, position) = property(rest.filter(|_| ["who", "on", "was"].contains(&field))?)?;
    let known = PROPERTIES.contains(&asked);
    (!known).then(|| unknown(source, position, ("an entity", asked), &PROPERTIES))
}

/// The property that is asked first.
fn property(asked: &Expr) -> Option<(&str, Position)> {
    match asked {
        Expr::Property(property, position) => Some((property.2.as_str(), *position)),
        Expr::Dot(pair, ..) | Expr::Index(pair, ..) => property(&pair.lhs),
        _ => None,
    }
}

fn unknown(
    source: &Source,
    position: Position,
    (what, name): (&str, &str),
    known: &[&str],
) -> Finding {
    let message = format!("{what} has no `{name}`");
    let finding = Finding::new(Severity::Error, "unknown-name", message);
    let finding = finding.at(source, span(source, position));
    let all = || format!("it has {}", known.join(", "));
    finding.with_help(Cure::nearest(name, known.iter().copied(), all))
}

/// What is wrong with an action that stands there with all it says.
fn bad_action(source: &Source, keys: &Expr, scene: &Scene) -> Option<Finding> {
    let place = keys.position();
    let (Value::Object(map), whole) = value(keys)? else { return None };
    let bad = |message: String| {
        let finding = Finding::new(Severity::Error, "bad-action", message);
        Some(finding.at(source, span(source, place)))
    };
    match read_action(Value::Object(map)) {
        // Of what is worked out later only the keys are known.
        Err(why) if whole || why.starts_with("there is no key") => bad(why),
        Err(_) => None,
        Ok(_) if !whole => None,
        Ok(action) => {
            let fault = scene.faults_of(&action).into_iter().next()?;
            Some(finding(source, place, &fault))
        }
    }
}

/// An expression as a value, and whether all of it stands there; what does not is told as a text.
fn value(expression: &Expr) -> Option<(Value, bool)> {
    Some(match expression {
        Expr::StringConstant(text, _) => (Value::String(text.to_string()), true),
        Expr::BoolConstant(flag, _) => (Value::Bool(*flag), true),
        Expr::IntegerConstant(number, _) => (Value::from(*number), true),
        Expr::FloatConstant(number, _) => (Value::from(**number), true),
        Expr::DynamicConstant(constant, _) => (constant_value(constant)?, true),
        Expr::Array(items, _) => {
            let (values, whole) = all(items.iter())?;
            (Value::Array(values), whole)
        }
        Expr::Map(map, _) => {
            let (values, whole) = all(map.0.iter().map(|(_, value)| value))?;
            let keys = map.0.iter().map(|(key, _)| key.name.to_string());
            (Value::Object(keys.zip(values).collect()), whole)
        }
        _ => (Value::String("who".into()), false),
    })
}

fn all<'a>(items: impl Iterator<Item = &'a Expr>) -> Option<(Vec<Value>, bool)> {
    let mut whole = true;
    let values: Option<Vec<Value>> = items
        .map(|item| {
            let (value, is_whole) = value(item)?;
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
