//! The calls of a script: whether there is such a function, and what it takes.

use std::any::TypeId;
use std::collections::{BTreeMap, BTreeSet};

use hazuro_format::{Code, Cure, Finding, Severity, Source};
use rhai::{AST, ASTNode, Dynamic, Expr, FnPtr, ImmutableString, Map, Position, Stmt};

use crate::engine::engine;
use crate::lending::Handle;
use crate::names::span;
use crate::tree::each_node;

/// What each function takes that the engine has: by its name, for each way of calling it.
type Signatures = BTreeMap<String, Vec<Vec<TypeId>>>;

/// Calls of functions that do not exist, or with what they cannot take.
pub(crate) fn wrong(source: &Source, tree: &AST) -> Vec<Finding> {
    let built_in = signatures();
    let own: BTreeSet<(&str, usize)> =
        tree.iter_functions().map(|function| (function.name, function.params.len())).collect();
    let mut findings = Vec::new();
    each_node(tree, &mut |node| {
        let (call, position, is_method) = match node {
            ASTNode::Expr(Expr::FnCall(call, position))
            | ASTNode::Stmt(Stmt::FnCall(call, position)) => (call, *position, false),
            ASTNode::Expr(Expr::MethodCall(call, position)) => (call, *position, true),
            _ => return,
        };
        let name = call.name.as_str();
        // What the language knows without any package takes what it will.
        if call.op_token.is_some() || LANGUAGE.contains(&name) {
            return;
        }
        let own = own.iter().filter(|(own, _)| *own == name).map(|(_, count)| *count);
        let own: Vec<usize> = own.collect();
        match (built_in.get(name), own.as_slice()) {
            (None, []) => findings.push(unknown(source, (name, position), &built_in, tree)),
            // Of what stands before the dot nothing is known here.
            _ if is_method => {}
            (ways, own) if !own.contains(&call.args.len()) => {
                let ways = ways.map_or(&[][..], Vec::as_slice);
                let of_length = |way: &&Vec<TypeId>| way.len() == call.args.len();
                let fitting: Vec<&Vec<TypeId>> = ways.iter().filter(of_length).collect();
                if fitting.is_empty() {
                    let takes = ways.iter().map(Vec::len).chain(own.iter().copied());
                    let takes = takes.collect::<BTreeSet<usize>>();
                    let message = format!(
                        "`{name}` takes {}, and here {}",
                        numbers(&takes),
                        if call.args.len() == 1 {
                            "is 1".into()
                        } else {
                            format!("are {}", call.args.len())
                        }
                    );
                    findings.push(bad(source, message, position));
                } else {
                    findings.extend(odd_value(source, name, &fitting, &call.args));
                }
            }
            _ => {}
        }
    });
    findings
}

/// What the language knows by itself.
const LANGUAGE: [&str; 7] = ["call", "curry", "is_shared", "type_of", "Fn", "is_def_fn", "on"];

fn signatures() -> Signatures {
    let each = engine().collect_fn_metadata(
        None,
        |function| {
            let takes = function.metadata.param_types.to_vec();
            Some((function.metadata.name.to_string(), takes, function.metadata.num_params))
        },
        true,
    );
    let mut signatures = Signatures::new();
    for (name, mut takes, count) in each {
        // Of some only the number is known.
        takes.resize(count, TypeId::of::<Dynamic>());
        signatures.entry(name).or_default().push(takes);
    }
    signatures
}

fn bad(source: &Source, message: String, position: Position) -> Finding {
    Finding::new(Severity::Error, Code::BadCall, message).at(source, span(source, position))
}

fn unknown(
    source: &Source,
    (name, position): (&str, Position),
    built_in: &Signatures,
    tree: &AST,
) -> Finding {
    let message = format!("there is no function named `{name}`");
    let finding = Finding::new(Severity::Error, Code::UnknownName, message);
    let own = tree.iter_functions().map(|function| function.name);
    let known = built_in.keys().map(String::as_str).chain(own).chain(LANGUAGE);
    let help =
        Cure::nearest(name, known, || "docs/reactions.md lists what a script can call".into());
    finding.at(source, span(source, position)).with_help(help)
}

/// `one value`, or `2 or 3 values`.
fn numbers(takes: &BTreeSet<usize>) -> String {
    let all: Vec<String> = takes.iter().map(ToString::to_string).collect();
    let value = if takes.iter().eq(&[1]) { "value" } else { "values" };
    format!("{} {value}", all.join(" or "))
}

/// A value that stands there and that a function never takes at its place.
fn odd_value(
    source: &Source,
    name: &str,
    ways: &[&Vec<TypeId>],
    values: &[Expr],
) -> Option<Finding> {
    values.iter().enumerate().find_map(|(place, value)| {
        let (given, word) = sort_of(value)?;
        let wanted: Vec<TypeId> = ways.iter().map(|way| way[place]).collect();
        let takes = |wanted: &TypeId| *wanted == given || *wanted == TypeId::of::<Dynamic>();
        if wanted.iter().any(takes) {
            return None;
        }
        let mut words: Vec<&str> = wanted.iter().filter_map(|it| word_of(*it)).collect();
        words.sort_unstable();
        words.dedup();
        let message = format!("`{name}` takes {} here, not {word}", words.join(" or "));
        (!words.is_empty()).then(|| bad(source, message, value.position()))
    })
}

/// The sort of a value that stands there, and its words.
fn sort_of(value: &Expr) -> Option<(TypeId, &'static str)> {
    let sort = match value {
        Expr::StringConstant(..) | Expr::InterpolatedString(..) => TypeId::of::<ImmutableString>(),
        Expr::IntegerConstant(..) => TypeId::of::<i64>(),
        Expr::FloatConstant(..) => TypeId::of::<f64>(),
        Expr::BoolConstant(..) => TypeId::of::<bool>(),
        Expr::Map(..) => TypeId::of::<Map>(),
        Expr::Array(..) => TypeId::of::<rhai::Array>(),
        Expr::DynamicConstant(constant, _) => constant.type_id(),
        _ => return None,
    };
    Some((sort, word_of(sort)?))
}

fn word_of(sort: TypeId) -> Option<&'static str> {
    let words = [
        (TypeId::of::<ImmutableString>(), "a text"),
        (TypeId::of::<i64>(), "a whole number"),
        (TypeId::of::<f64>(), "a number with decimals"),
        (TypeId::of::<bool>(), "true or false"),
        (TypeId::of::<Map>(), "a table"),
        (TypeId::of::<rhai::Array>(), "a list"),
        (TypeId::of::<FnPtr>(), "a function"),
        (TypeId::of::<Handle>(), "an entity"),
    ];
    words.into_iter().find(|(id, _)| *id == sort).map(|(_, word)| word)
}
