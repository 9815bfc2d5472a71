//! Conditions written as expressions, bounded in every way.

use std::collections::BTreeMap;
use std::sync::{Arc, OnceLock};

use hazuro::EntityId;
use hazuro::scene::{Condition, Detector, Facts, Score, nearest};
use rhai::packages::{
    ArithmeticPackage, BasicArrayPackage, BasicMathPackage, LogicPackage, MoreStringPackage,
    Package,
};
use rhai::{AST, ASTNode, Array, Dynamic, Engine, Expr, Scope};

/// The variables of an expression.
const NAMES: [&str; 5] = ["who", "on", "count", "time", "distance"];
/// What `who` and `on` have.
const PROPERTIES: [&str; 16] = [
    "name",
    "kind",
    "tags",
    "x",
    "y",
    "z",
    "enabled",
    "visible",
    "occupants",
    "occupied",
    "touched_by",
    "sees",
    "target",
    "height",
    "grounded",
    "ground",
];
/// The most steps that one test of a condition may take.
const MAX_STEPS: u64 = 20_000;

/// An expression that cannot be used: the message, and where in it, in characters from 0.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct BadExpression {
    pub message: String,
    pub column: usize,
    pub help: Option<String>,
}

/// `who` or `on` as an expression sees it.
#[derive(Clone)]
struct Somebody {
    name: String,
    kind: String,
    tags: Array,
    at: [f64; 3],
    enabled: bool,
    visible: bool,
    occupants: Array,
    touched_by: Array,
    sees: Array,
    target: String,
    height: f64,
    grounded: bool,
    ground: String,
}

/// The counts as an expression sees them.
#[derive(Clone)]
struct Counts(Arc<BTreeMap<String, i64>>);

/// Reads the `if` of a reaction. `counts` are the names of the counts there are.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn read(text: &str, counts: &[impl AsRef<str>]) -> Result<Condition, BadExpression> {
    let program = Program::new(text, counts)?;
    Ok(Condition::fallible(text, move |facts| {
        let value = program.value(facts)?;
        let kind = value.type_name();
        value.as_bool().map_err(|_| format!("it gives {}, not true or false", plain(kind)))
    }))
}

/// Reads the `score` of a seeker.
///
/// # Errors
/// If it is no expression, or names what there is not.
pub(crate) fn read_score(text: &str, counts: &[impl AsRef<str>]) -> Result<Score, BadExpression> {
    let program = Program::new(text, counts)?;
    Ok(Score::fallible(text, move |facts| {
        let value = program.value(facts)?;
        let number = value.as_float().or_else(|_| value.as_int().map(|whole| whole as f64));
        number.map_err(|_| format!("it gives {}, not a number", plain(value.type_name())))
    }))
}

/// An expression, ready to be asked for its value.
#[derive(Debug)]
pub(crate) struct Program {
    tree: AST,
    asks_who: bool,
    asks_on: bool,
}

impl Program {
    /// Reads an expression.
    ///
    /// # Errors
    /// If it is none, or names what there is not.
    pub fn new(text: &str, counts: &[impl AsRef<str>]) -> Result<Self, BadExpression> {
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
        let mut program = Self { tree, asks_who: false, asks_on: false };
        program.check_names(counts)?;
        Ok(program)
    }

    /// Looks at every name that is asked of `who`, `on` and `count`.
    fn check_names(&mut self, counts: &[impl AsRef<str>]) -> Result<(), BadExpression> {
        let mut bad = None;
        let (mut asks_who, mut asks_on) = (false, false);
        self.tree.walk(&mut |nodes: &[ASTNode<'_>]| {
            match nodes.last() {
                Some(ASTNode::Expr(Expr::Variable(variable, ..))) => {
                    asks_who |= variable.1 == "who";
                    asks_on |= variable.1 == "on";
                }
                Some(ASTNode::Expr(Expr::Dot(pair, ..))) => {
                    if let (Expr::Variable(variable, ..), Expr::Property(property, position)) =
                        (&pair.lhs, leftmost(&pair.rhs))
                    {
                        let column = position.position().unwrap_or(1).saturating_sub(1);
                        bad = bad
                            .take()
                            .or_else(|| unknown_property(&variable.1, &property.2, counts, column));
                    }
                }
                _ => {}
            }
            bad.is_none()
        });
        (self.asks_who, self.asks_on) = (asks_who, asks_on);
        bad.map_or(Ok(()), Err)
    }

    /// The value at a moment.
    ///
    /// # Errors
    /// Why there is none, in full.
    pub fn value(&self, facts: &dyn Facts) -> Result<Dynamic, String> {
        let mut scope = Scope::new();
        for (name, asked, entity) in
            [("who", self.asks_who, facts.who()), ("on", self.asks_on, facts.on())]
        {
            if asked {
                let entity = entity.ok_or_else(|| format!("this event has no `{name}`"))?;
                scope.push(name, Somebody::new(facts, entity));
            }
        }
        scope.push("count", Counts(Arc::new(facts.counts().into_iter().collect())));
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

fn unknown_property(
    variable: &str,
    property: &str,
    counts: &[impl AsRef<str>],
    column: usize,
) -> Option<BadExpression> {
    let (known, message): (Vec<&str>, _) = match variable {
        "count" => (
            counts.iter().map(AsRef::as_ref).collect(),
            format!("there is no count named `{property}`"),
        ),
        "who" | "on" => (PROPERTIES.to_vec(), format!("`{variable}` has no `{property}`")),
        _ => return None,
    };
    if known.contains(&property) {
        return None;
    }
    let help = match nearest(property, known.iter().copied()) {
        Some(nearest) => format!("did you mean `{nearest}`?"),
        None if variable == "count" => {
            format!(
                "let an action count it, or give it a start: [scene] counts = {{ {property} = 0 }}"
            )
        }
        None => format!("it has {}", known.join(", ")),
    };
    Some(BadExpression { message, column, help: Some(help) })
}

/// Help for a message about a variable that does not exist.
fn unknown_name(message: &str) -> Option<String> {
    let name = message.strip_prefix("Undefined variable: ")?;
    Some(match nearest(name, NAMES) {
        Some(nearest) => {
            format!("did you mean `{nearest}`? A condition knows who, on, count, time and distance")
        }
        None => "a condition knows who, on, count, time and distance; texts need quotes".into(),
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
    fn new(facts: &dyn Facts, entity: EntityId) -> Self {
        let scene = facts.scene();
        let ground = facts.ground(entity);
        let name = |id: Option<EntityId>| id.map_or(String::new(), |id| scene.name(id).to_owned());
        let names = |ids: Vec<EntityId>| ids.into_iter().map(|id| scene.name(id).to_owned().into());
        Self {
            name: scene.name(entity).to_owned(),
            kind: scene.kind_of(entity).map_or(String::new(), |kind| kind.name().to_owned()),
            tags: scene.tags_of(entity).map(|tag| tag.to_owned().into()).collect(),
            at: facts.position(entity).to_array(),
            enabled: facts.is_enabled(entity),
            visible: facts.is_visible(entity),
            occupants: names(facts.occupants(entity)).collect(),
            touched_by: names(facts.detected(entity, Detector::Touch)).collect(),
            sees: names(facts.detected(entity, Detector::Sight)).collect(),
            target: name(facts.detected(entity, Detector::Seeker).first().copied()),
            height: ground.map_or(f64::INFINITY, |ground| ground.height),
            grounded: ground.is_some_and(|ground| ground.grounded),
            ground: name(ground.and_then(|ground| ground.under)),
        }
    }
}

/// One engine for all conditions; it holds no state of any play.
fn engine() -> &'static Engine {
    static ENGINE: OnceLock<Engine> = OnceLock::new();
    ENGINE.get_or_init(|| {
        let mut engine = Engine::new_raw();
        for package in [
            ArithmeticPackage::new().as_shared_module(),
            LogicPackage::new().as_shared_module(),
            BasicMathPackage::new().as_shared_module(),
            BasicArrayPackage::new().as_shared_module(),
            MoreStringPackage::new().as_shared_module(),
        ] {
            engine.register_global_module(package);
        }
        engine
            .set_strict_variables(true)
            .set_max_operations(MAX_STEPS)
            .set_max_expr_depths(64, 32)
            .set_max_string_size(4096)
            .set_max_array_size(1024)
            .set_max_map_size(256)
            .disable_symbol("eval");
        engine
            .register_type_with_name::<Somebody>("somebody")
            .register_get("name", |who: &mut Somebody| who.name.clone())
            .register_get("kind", |who: &mut Somebody| who.kind.clone())
            .register_get("tags", |who: &mut Somebody| who.tags.clone())
            .register_get("x", |who: &mut Somebody| who.at[0])
            .register_get("y", |who: &mut Somebody| who.at[1])
            .register_get("z", |who: &mut Somebody| who.at[2])
            .register_get("enabled", |who: &mut Somebody| who.enabled)
            .register_get("visible", |who: &mut Somebody| who.visible)
            .register_get("occupants", |who: &mut Somebody| who.occupants.clone())
            .register_get("occupied", |who: &mut Somebody| !who.occupants.is_empty())
            .register_get("touched_by", |who: &mut Somebody| who.touched_by.clone())
            .register_get("sees", |who: &mut Somebody| who.sees.clone())
            .register_get("target", |who: &mut Somebody| who.target.clone())
            .register_get("height", |who: &mut Somebody| who.height)
            .register_get("grounded", |who: &mut Somebody| who.grounded)
            .register_get("ground", |who: &mut Somebody| who.ground.clone());
        engine.register_type_with_name::<Counts>("counts").register_indexer_get(
            |counts: &mut Counts, name: &str| counts.0.get(name).copied().unwrap_or_default(),
        );
        engine
    })
}
