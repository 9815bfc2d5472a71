//! Conditions, formulas and values written as expressions, bounded in every way.

use std::sync::OnceLock;

use hazuro::scene::{Condition, Facts, Formula, nearest};
use hazuro_format::{BadExpression, Cure, Known};
use rhai::packages::{
    ArithmeticPackage, BasicArrayPackage, BasicMathPackage, LogicPackage, MoreStringPackage,
    Package,
};
use rhai::{AST, Dynamic, Engine, Scope};

use crate::asked::{Asks, Somebody, asked};
use crate::properties::Values;
use crate::tree::misread;
use crate::value::Value;

/// The variables of an expression.
const NAMES: [&str; 7] = ["who", "on", "count", "flag", "time", "distance", "event"];
/// The most steps that one test of a condition may take.
const MAX_STEPS: u64 = 20_000;

/// Reads the `if` of a reaction.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn condition(text: &str, known: &Known) -> Result<Condition, BadExpression> {
    in_parts(text, &|text| one_condition(text, known, |_, _| false))
}

/// Reads the `if` of an `admit`: who lacks a stat that it asks for is not admitted.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn admission(text: &str, known: &Known) -> Result<Condition, BadExpression> {
    in_parts(text, &|text| one_condition(text, known, Expression::is_lacked))
}

/// A condition made of the parts that must all hold.
fn in_parts(
    text: &str,
    read: &dyn Fn(&str) -> Result<Condition, BadExpression>,
) -> Result<Condition, BadExpression> {
    let whole = read(text)?;
    let parts = parts_of(text);
    if parts.len() < 2 {
        return Ok(whole);
    }
    let parts: Result<Vec<_>, _> = parts.iter().map(|part| read(part)).collect();
    // What cannot stand alone is told as a whole.
    Ok(parts.map_or(whole.clone(), |parts| whole.made_of(parts)))
}

/// A condition that does not hold, instead of failing, where `unless` says so.
fn one_condition(
    text: &str,
    known: &Known,
    unless: impl Fn(&Expression, &dyn Facts) -> bool + Send + Sync + 'static,
) -> Result<Condition, BadExpression> {
    let expression = Expression::new(text, known)?;
    Ok(Condition::fallible(text, move |facts| {
        let value = match expression.dynamic(facts) {
            Err(_) if unless(&expression, facts) => return Ok(false),
            value => value?,
        };
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

/// Reads a formula.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn formula(text: &str, known: &Known) -> Result<Formula, BadExpression> {
    let expression = Expression::new(text, known).map_err(|bad| match bad.help {
        None => bad.with_help("a formula is an expression, as in on.slot.delay * 2"),
        Some(_) => bad,
    })?;
    Ok(Formula::fallible(text, move |facts| {
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
    asks: Asks,
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
            let word = text.chars().skip(column);
            let word: String = word.take_while(|it| it.is_alphanumeric() || *it == '_').collect();
            let message = misread(error.err_type(), &word).replace("Script", "The expression");
            let help = unknown_name(&message);
            BadExpression { message, column, help }
        })?;
        let asks = asked(&tree, known)?;
        Ok(Self { tree, asks })
    }

    /// Whether it asks anything of `who`.
    pub fn asks_of_who(&self) -> bool {
        self.asks.who.is_some()
    }

    /// The value at a moment.
    ///
    /// # Errors
    /// Why there is none, in full.
    pub fn value(&self, facts: &dyn Facts) -> Result<Value, String> {
        self.dynamic(facts).map(Value::from)
    }

    /// Whether it asks the subject for a stat that this has not.
    fn is_lacked(&self, facts: &dyn Facts) -> bool {
        self.asks.who.as_ref().zip(facts.who()).is_some_and(|(it, who)| it.is_lacked_by(facts, who))
    }

    fn dynamic(&self, facts: &dyn Facts) -> Result<Dynamic, String> {
        let mut scope = Scope::new();
        let Asks { who, on, others } = &self.asks;
        for (name, entity, asked) in [("who", facts.who(), who), ("on", facts.on(), on)] {
            if let Some(asked) = asked {
                let entity = entity.ok_or_else(|| format!("this event has no `{name}`"))?;
                scope.push(name, asked.answers(facts, entity));
            }
        }
        // What is not asked for is not gathered, so that nobody reads that it mattered.
        for name in others {
            match name.as_str() {
                "count" => drop(scope.push("count", Values::counts(facts, None))),
                "flag" => drop(scope.push("flag", Values::flags(facts, None))),
                "time" => drop(scope.push("time", facts.time().secs())),
                "event" => drop(scope.push("event", Values::event(facts))),
                "distance" => {
                    if let Some((who, on)) = facts.who().zip(facts.on()) {
                        let apart = facts.position(who).distance(facts.position(on));
                        scope.push("distance", apart);
                    }
                }
                _ => {}
            }
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

/// Help for a message about a variable that does not exist.
fn unknown_name(message: &str) -> Option<Cure> {
    let name = message.strip_prefix("Undefined variable: ")?;
    Some(match nearest(name, NAMES) {
        Some(nearest) => Cure::meant(name, nearest)
            .and("An expression knows who, on, event, count, flag, time and distance"),
        None => {
            "an expression knows who, on, event, count, flag, time and distance; texts need quotes"
                .into()
        }
    })
}

fn plain(type_name: &str) -> &str {
    match type_name {
        "i64" | "f64" => "a number",
        "string" => "a text",
        "array" => "a list",
        "()" => "nothing",
        "bool" => "true or false",
        "somebody" => "an entity",
        _ => "something else",
    }
}

/// One engine for all conditions; it holds no state of any play.
fn engine() -> &'static Engine {
    static ENGINE: OnceLock<Engine> = OnceLock::new();
    ENGINE.get_or_init(|| {
        let mut engine = bounded(MAX_STEPS);
        Somebody::register(&mut engine);
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
