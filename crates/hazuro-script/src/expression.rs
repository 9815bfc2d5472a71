//! Conditions, scores and values written as expressions, bounded in every way.

use std::collections::BTreeMap;
use std::sync::{Arc, OnceLock};

use hazuro::EntityId;
use hazuro::scene::{Condition, Facts, Score, nearest};
use hazuro_format::{BadExpression, Cure, Known};
use rhai::packages::{
    ArithmeticPackage, BasicArrayPackage, BasicMathPackage, LogicPackage, MoreStringPackage,
    Package,
};
use rhai::{AST, ASTNode, Dynamic, Engine, Expr, Scope};

use crate::properties::{PROPERTIES, Values, property, sort};
use crate::value::Value;

/// The variables of an expression.
const NAMES: [&str; 6] = ["who", "on", "count", "flag", "time", "distance"];
/// The most steps that one test of a condition may take.
const MAX_STEPS: u64 = 20_000;

/// `who` or `on` as an expression sees it: with what it asks of it.
#[derive(Clone)]
struct Somebody(Arc<BTreeMap<&'static str, Dynamic>>);

/// Reads the `if` of a reaction.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn condition(text: &str, known: &Known) -> Result<Condition, BadExpression> {
    let whole = one_condition(text, known)?;
    let parts = parts_of(text);
    if parts.len() < 2 {
        return Ok(whole);
    }
    let parts: Result<Vec<_>, _> = parts.iter().map(|part| one_condition(part, known)).collect();
    // What cannot stand alone is told as a whole.
    Ok(parts.map_or(whole.clone(), |parts| whole.made_of(parts)))
}

fn one_condition(text: &str, known: &Known) -> Result<Condition, BadExpression> {
    let expression = Expression::new(text, known)?;
    Ok(Condition::fallible(text, move |facts| {
        let value = expression.dynamic(facts)?;
        let kind = value.type_name();
        value.as_bool().map_err(|_| format!("it gives {}, not true or false", plain(kind)))
    }))
}

/// The parts between the `&&` that stand outside of all brackets and texts; one if there is an
/// `||` beside them.
fn parts_of(text: &str) -> Vec<&str> {
    let (mut parts, mut from, mut depth, mut quote) = (Vec::new(), 0, 0_i32, None);
    let bytes = text.as_bytes();
    let mut at = 0;
    while at < bytes.len() {
        let byte = bytes[at];
        match (quote, byte) {
            (Some(_), b'\\') => at += 1,
            (Some(open), close) if open == close => quote = None,
            (None, b'"' | b'\'' | b'`') => quote = Some(byte),
            (None, b'(' | b'[' | b'{') => depth += 1,
            (None, b')' | b']' | b'}') => depth -= 1,
            (None, b'|') if depth == 0 && bytes.get(at + 1) == Some(&b'|') => return vec![text],
            (None, b'&') if depth == 0 && bytes.get(at + 1) == Some(&b'&') => {
                parts.push(text[from..at].trim());
                from = at + 2;
                at += 1;
            }
            _ => {}
        }
        at += 1;
    }
    parts.push(text[from..].trim());
    parts
}

/// Reads the `score` of a seeker.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn score(text: &str, known: &Known) -> Result<Score, BadExpression> {
    let expression = Expression::new(text, known)?;
    Ok(Score::fallible(text, move |facts| {
        let value = expression.dynamic(facts)?;
        let number = value.as_float().or_else(|_| value.as_int().map(|whole| whole as f64));
        number.map_err(|_| format!("it gives {}, not a number", plain(value.type_name())))
    }))
}

/// An expression, ready to be asked for its value.
///
/// ```
/// use hazuro::{Play, Scene};
/// use hazuro_format::Known;
/// use hazuro_script::{Expression, Value};
/// let play = Play::new(Scene::builder("Yard").count("rings", 2).build()?);
/// let expression = Expression::new("count.rings * 3", &Known::of_scene(play.scene())).unwrap();
/// assert_eq!(expression.value(&play.facts()), Ok(Value::Whole(6)));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Debug)]
pub struct Expression {
    tree: AST,
    /// What it asks of `who`, if of anybody, and of `on`.
    asks: [Option<Vec<&'static str>>; 2],
}

impl Expression {
    /// Reads an expression.
    ///
    /// # Errors
    /// If it is none, or names what there is not.
    pub fn new(text: &str, known: &Known) -> Result<Self, BadExpression> {
        let mut scope = Scope::new();
        for name in NAMES {
            scope.push_dynamic(name, Dynamic::UNIT);
        }
        let tree = engine().compile_expression_with_scope(&scope, text).map_err(|error| {
            let end = text.trim_end().chars().count();
            let column = error.position().position().map_or(end, |column| column - 1);
            let message = error.err_type().to_string().replace("Script", "The expression");
            let help = unknown_name(&message);
            BadExpression { message, column, help }
        })?;
        let mut program = Self { tree, asks: [None, None] };
        program.check_names(known)?;
        Ok(program)
    }

    /// Looks at every name that is asked of `who`, `on`, `count` and `flag`.
    fn check_names(&mut self, known: &Known) -> Result<(), BadExpression> {
        let mut bad = None;
        let mut asks: [Option<Vec<&'static str>>; 2] = [None, None];
        self.tree.walk(&mut |nodes: &[ASTNode<'_>]| {
            match nodes.last() {
                Some(ASTNode::Expr(Expr::Variable(variable, ..))) => {
                    let Some(index) = ["who", "on"].iter().position(|it| variable.1 == *it) else {
                        return true;
                    };
                    let asked = asks[index].get_or_insert_default();
                    let before = nodes.len().checked_sub(2).map(|at| &nodes[at]);
                    match before {
                        Some(ASTNode::Expr(Expr::Dot(pair, ..)))
                            if let Expr::Property(property, ..) = leftmost(&pair.rhs) =>
                        {
                            let name = property.2.as_str();
                            asked.extend(PROPERTIES.iter().find(|known| **known == name));
                        }
                        // As a whole: it may be asked anything.
                        _ => asked.extend(PROPERTIES),
                    }
                }
                Some(ASTNode::Expr(Expr::Dot(pair, ..))) => {
                    bad = bad.take().or_else(|| unknown_property(&pair.lhs, &pair.rhs, known));
                }
                _ => {}
            }
            bad.is_none()
        });
        self.asks = asks;
        bad.map_or(Ok(()), Err)
    }

    /// Whether it asks anything of `who`.
    pub fn asks_of_who(&self) -> bool {
        self.asks[0].is_some()
    }

    /// The value at a moment.
    ///
    /// # Errors
    /// Why there is none, in full.
    pub fn value(&self, facts: &dyn Facts) -> Result<Value, String> {
        self.dynamic(facts).map(Value::from)
    }

    fn dynamic(&self, facts: &dyn Facts) -> Result<Dynamic, String> {
        let mut scope = Scope::new();
        let somebody = [("who", facts.who()), ("on", facts.on())];
        for ((name, entity), asked) in somebody.into_iter().zip(&self.asks) {
            if let Some(asked) = asked {
                let entity = entity.ok_or_else(|| format!("this event has no `{name}`"))?;
                scope.push(name, Somebody::new(facts, entity, asked));
            }
        }
        scope.push("count", Values::counts(facts, None));
        scope.push("flag", Values::flags(facts, None));
        scope.push("time", facts.time().secs());
        if let Some((who, on)) = facts.who().zip(facts.on()) {
            scope.push("distance", facts.position(who).distance(facts.position(on)));
        }
        engine().eval_ast_with_scope(&mut scope, &self.tree).map_err(|error| {
            let mut error = *error;
            let _ = error.take_position();
            match error {
                rhai::EvalAltResult::ErrorTooManyOperations(_) => {
                    format!("it takes more than {MAX_STEPS} steps")
                }
                error => error.to_string(),
            }
        })
    }
}

/// What a dotted chain asks first.
fn leftmost(expression: &Expr) -> &Expr {
    match expression {
        Expr::Dot(pair, ..) | Expr::Index(pair, ..) => leftmost(&pair.lhs),
        other => other,
    }
}

/// What is wrong with a name that is asked of something.
fn unknown_property(asked: &Expr, rest: &Expr, known: &Known) -> Option<BadExpression> {
    let Expr::Property(property, position) = leftmost(rest) else { return None };
    let column = position.position().unwrap_or(1).saturating_sub(1);
    let name = property.2.as_str();
    // What is asked: `count`, or the `count` of `who`.
    let sorted = match asked {
        Expr::Variable(variable, ..) => match variable.1.as_str() {
            "who" | "on" if PROPERTIES.contains(&name) => return None,
            variable @ ("who" | "on") => {
                let all = || format!("it has {}", PROPERTIES.join(", "));
                let help = Cure::nearest(name, PROPERTIES, all);
                let message = format!("`{variable}` has no `{name}`");
                return Some(BadExpression { message, column, help: Some(help) });
            }
            variable => variable,
        },
        Expr::Property(property, ..) => property.2.as_str(),
        _ => return None,
    };
    Some(BadExpression { column, ..not_named(known, sorted, name)? })
}

/// What is wrong with the name of a count, flag or stat, if nothing in the scene names it.
pub(crate) fn not_named(known: &Known, sorted: &str, name: &str) -> Option<BadExpression> {
    let (names, what) = sort(known, sorted)?;
    if names.contains(name) {
        return None;
    }
    let help = Cure::nearest(name, names.iter().map(String::as_str), || match what {
        "count" => {
            format!("let an action count it, or give it a start: [scene] counts = {{ {name} = 0 }}")
        }
        "flag" => format!(
            "let an action raise it, or give it a start: [scene] flags = {{ {name} = false }}"
        ),
        _ => format!("give it to an entity: stats = {{ {name} = {{ start = 0 }} }}"),
    });
    let message = format!("there is no {what} named `{name}`");
    Some(BadExpression { message, column: 0, help: Some(help) })
}

/// Help for a message about a variable that does not exist.
fn unknown_name(message: &str) -> Option<Cure> {
    let name = message.strip_prefix("Undefined variable: ")?;
    Some(match nearest(name, NAMES) {
        Some(nearest) => Cure::meant(name, nearest)
            .and("A condition knows who, on, count, flag, time and distance"),
        None => {
            "a condition knows who, on, count, flag, time and distance; texts need quotes".into()
        }
    })
}

fn plain(type_name: &str) -> &str {
    match type_name {
        "i64" | "f64" => "a number",
        "string" => "a text",
        "array" => "a list",
        "()" => "nothing",
        _ => "something else",
    }
}

impl Somebody {
    fn new(facts: &dyn Facts, entity: EntityId, asked: &[&'static str]) -> Self {
        let asked = asked.iter().map(|name| (*name, property(facts, entity, name)));
        Self(Arc::new(asked.collect()))
    }
}

/// One engine for all conditions; it holds no state of any play.
fn engine() -> &'static Engine {
    static ENGINE: OnceLock<Engine> = OnceLock::new();
    ENGINE.get_or_init(|| {
        let mut engine = bounded(MAX_STEPS);
        engine.register_type_with_name::<Somebody>("somebody");
        for name in PROPERTIES {
            engine.register_get(name, move |somebody: &mut Somebody| {
                somebody.0.get(name).cloned().unwrap_or_default()
            });
        }
        engine
    })
}

/// An engine without access to anything, bounded in every way.
pub(crate) fn bounded(steps: u64) -> Engine {
    let mut engine = Engine::new_raw();
    for module in [
        ArithmeticPackage::new().as_shared_module(),
        LogicPackage::new().as_shared_module(),
        BasicMathPackage::new().as_shared_module(),
        BasicArrayPackage::new().as_shared_module(),
        MoreStringPackage::new().as_shared_module(),
    ] {
        engine.register_global_module(module);
    }
    engine
        .set_strict_variables(true)
        .set_max_operations(steps)
        .set_max_expr_depths(64, 32)
        .set_max_string_size(4096)
        .set_max_array_size(1024)
        .set_max_map_size(256)
        .disable_symbol("eval");
    Values::register(&mut engine);
    engine
}
