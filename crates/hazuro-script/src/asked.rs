//! What an expression asks of `who` and `on`: found when it is read, so that nothing else is gathered
//! each time its value is worked out.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use hazuro::EntityId;
use hazuro::scene::Facts;
use hazuro_format::{BadExpression, Cure, Known};
use rhai::{AST, ASTNode, Dynamic, Engine, Expr, Position};

use crate::properties::{PROPERTIES, Values, in_slot, not_named, property, slot_now};
use crate::tree::chain;

/// What is asked of an entity: properties, and what of each slot.
#[derive(Clone, Debug, Default)]
pub(crate) struct Asked {
    properties: BTreeSet<&'static str>,
    slots: BTreeMap<String, Self>,
    /// The stats that it names.
    stats: BTreeSet<String>,
}

/// What an expression asks of whom.
#[derive(Clone, Debug, Default)]
pub(crate) struct Asks {
    pub who: Option<Asked>,
    pub on: Option<Asked>,
    /// What else it names: of `count`, `flag`, `time`, `distance` and `event`.
    pub others: BTreeSet<String>,
}

/// An entity as an expression sees it: with what it asks of it.
#[derive(Clone)]
pub(crate) struct Somebody {
    id: EntityId,
    name: Arc<str>,
    values: Arc<BTreeMap<&'static str, Dynamic>>,
}

/// What an expression asks of `who`, of `on` and of the event.
///
/// # Errors
/// The first name that is asked for and that there is not.
pub(crate) fn asked(tree: &AST, known: &Known) -> Result<Asks, BadExpression> {
    let mut asks = Asks::default();
    let mut bad = None;
    tree.walk(&mut |nodes: &[ASTNode<'_>]| {
        match nodes.last() {
            Some(ASTNode::Expr(Expr::Variable(variable, ..))) => {
                let of = match variable.1.as_str() {
                    "who" => Some(&mut asks.who),
                    "on" => Some(&mut asks.on),
                    other => {
                        asks.others.insert(other.to_owned());
                        None
                    }
                };
                if let Some(of) = of {
                    let asked = of.get_or_insert_default();
                    let before = nodes.len().checked_sub(2).map(|at| &nodes[at]);
                    if let Some(ASTNode::Expr(Expr::Dot(pair, ..))) = before {
                        let result = asked.ask(&variable.1, &chain(&pair.rhs), known);
                        bad = result.err();
                    }
                }
            }
            Some(ASTNode::Expr(Expr::Dot(pair, ..))) => {
                if let (Expr::Variable(variable, ..), Some((name, place))) =
                    (&pair.lhs, chain(&pair.rhs).first())
                {
                    bad = named(known, &variable.1, name, *place).err();
                    if variable.1 == "event" && !EVENT.contains(name) {
                        bad = Some(not_of_event(name, *place));
                    }
                }
            }
            _ => {}
        }
        bad.is_none()
    });
    bad.map_or(Ok(asks), Err)
}

/// What can be asked of an event.
const EVENT: [&str; 4] = ["part", "point", "normal", "speed"];

fn not_of_event(name: &str, place: Position) -> BadExpression {
    let help = Cure::nearest(name, EVENT, || format!("it has {}", EVENT.join(", ")));
    let message = format!("an event has no `{name}` here");
    BadExpression { message, column: column(place), help: Some(help) }
}

fn column(place: Position) -> usize {
    place.position().unwrap_or(1).saturating_sub(1)
}

/// Whether a count, flag, stat or slot of this name is known; other sorts have no such names.
fn named(known: &Known, sorted: &str, name: &str, place: Position) -> Result<(), BadExpression> {
    match not_named(known, sorted, name) {
        Some(bad) => Err(BadExpression { column: column(place), ..bad }),
        None => Ok(()),
    }
}

impl Asked {
    /// Takes in a chain of properties.
    fn ask(
        &mut self,
        of: &str,
        chain: &[(&str, Position)],
        known: &Known,
    ) -> Result<(), BadExpression> {
        let Some(((name, place), rest)) = chain.split_first() else { return Ok(()) };
        let Some(property) = PROPERTIES.iter().find(|it| **it == *name) else {
            let help = Cure::nearest(name, PROPERTIES.iter().copied(), || {
                format!("it has {}", PROPERTIES.join(", "))
            });
            let message = format!("`{of}` has no `{name}`");
            return Err(BadExpression { message, column: column(*place), help: Some(help) });
        };
        if let Some((name, place)) = rest.first() {
            named(known, property, name, *place)?;
        }
        match (*property, rest) {
            ("slot", [(slot, _), further @ ..]) => {
                let below = self.slots.entry((*slot).to_owned()).or_default();
                below.ask(slot, further, known)
            }
            ("slot", []) => Err(BadExpression {
                message: "`slot` stands before the name of a slot".into(),
                column: column(*place),
                help: Some(format!("as in {of}.slot.NAME").into()),
            }),
            (property, rest) => {
                if let ("stat", Some((stat, _))) = (property, rest.first()) {
                    self.stats.insert((*stat).to_owned());
                }
                self.properties.insert(property);
                Ok(())
            }
        }
    }

    /// Whether it asks an entity for a stat that this has not.
    pub fn is_lacked_by(&self, facts: &dyn Facts, entity: EntityId) -> bool {
        self.stats.iter().any(|stat| facts.stat(entity, stat).is_none())
    }

    /// What an entity answers.
    pub fn answers(&self, facts: &dyn Facts, entity: EntityId) -> Somebody {
        let name = facts.name(entity);
        let mut values: BTreeMap<_, _> =
            self.properties.iter().map(|it| (*it, property(facts, entity, it))).collect();
        if !self.slots.is_empty() {
            let slots = self.slots.iter().filter_map(|(slot, below)| {
                let value = slot_now(facts, entity, slot)?;
                let value = in_slot(value, |id| Dynamic::from(below.answers(facts, id)));
                Some((slot.clone(), value))
            });
            values.insert("slot", Dynamic::from(Values::slots(name, slots)));
        }
        Somebody { id: entity, name: name.into(), values: Arc::new(values) }
    }
}

impl Somebody {
    /// Lets an engine ask of somebody.
    pub fn register(engine: &mut Engine) {
        engine.register_type_with_name::<Self>("somebody");
        for name in PROPERTIES.iter().copied() {
            engine.register_get(name, move |it: &mut Self| {
                it.values.get(name).cloned().unwrap_or_default()
            });
        }
        engine
            .register_fn("==", |one: Self, other: Self| one.id == other.id)
            .register_fn("!=", |one: Self, other: Self| one.id != other.id)
            .register_fn("==", |one: Self, name: &str| *one.name == *name)
            .register_fn("!=", |one: Self, name: &str| *one.name != *name)
            .register_fn("==", |name: &str, one: Self| *one.name == *name)
            .register_fn("!=", |name: &str, one: Self| *one.name != *name)
            .register_fn("to_string", |it: &mut Self| it.name.to_string());
    }
}
