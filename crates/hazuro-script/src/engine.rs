//! What scripts can call and ask.

use std::cell::RefCell;
use std::sync::OnceLock;

use hazuro::scene::{Facts, Particulars, Trigger};
use hazuro::{Act, EntityId, Event, Place, Scene};
use hazuro_format::{read_action, read_triggers};
use rhai::packages::{
    BasicFnPackage, BasicIteratorPackage, BasicMapPackage, BasicStringPackage, Package,
};
use rhai::{
    AST, Dynamic, Engine, EvalAltResult, FnPtr, ImmutableString, Map, NativeCallContext, Position,
    Token,
};

use crate::expression::bounded;
use crate::lending::{Handle, Outcome, acting, nobody, place_of, words, written};
use crate::properties::{PROPERTIES, Values, in_slot, property, slot_now};
use crate::questions::questions;

/// The most steps that one call of a function may take.
pub(crate) const MAX_STEPS: u64 = 100_000;
const MAX_DEPTH: usize = 24;
const MAX_TEXT: usize = 64 * 1024;
/// Of lists within lists all items count, so that none is nested deeper than a call can go.
const MAX_LIST: usize = 1000;

thread_local! {
    /// The handlers of a script that registers them now.
    static REGISTERED: RefCell<Option<Vec<Registered>>> = const { RefCell::new(None) };
}

/// A handler that a script registers.
#[derive(Clone, Debug)]
pub(crate) struct Registered {
    pub triggers: Vec<Trigger>,
    pub run: FnPtr,
    pub place: Position,
}

/// An event, as a script sees it.
#[derive(Clone, Debug)]
pub(crate) struct Happening(Box<Event>);

impl Happening {
    pub fn of(event: &Event) -> Self {
        Self(Box::new(event.clone()))
    }
}

/// How a function was called.
type Call<'a> = NativeCallContext<'a>;

/// Where a function was called.
fn line(call: &Call<'_>) -> Place {
    let file = call.tag().and_then(|file| file.clone().into_string().ok()).unwrap_or_default();
    let position = call.call_position();
    let (line, column) = (position.line().unwrap_or(0), position.position().unwrap_or(0));
    Place { file, line, column }
}

/// Does with what is lent what cannot fail.
fn doing(call: &Call<'_>, run: impl FnOnce(&mut Act<'_>)) -> Outcome<()> {
    let line = line(call);
    acting(|act| {
        act.at_line(line);
        run(act);
        Ok(())
    })
}

/// Runs a script from top to bottom and collects the handlers it registers.
pub(crate) fn registered_by(tree: &AST) -> Outcome<Vec<Registered>> {
    REGISTERED.set(Some(Vec::new()));
    let outcome = engine().run_ast(tree);
    let registered = REGISTERED.take().unwrap_or_default();
    outcome.map(|()| registered)
}

/// One engine for all scripts; it holds no state of any play.
pub(crate) fn engine() -> &'static Engine {
    static ENGINE: OnceLock<Engine> = OnceLock::new();
    ENGINE.get_or_init(|| {
        let mut engine = bounded(MAX_STEPS);
        for module in [
            BasicIteratorPackage::new().as_shared_module(),
            BasicFnPackage::new().as_shared_module(),
            BasicMapPackage::new().as_shared_module(),
            BasicStringPackage::new().as_shared_module(),
        ] {
            engine.register_global_module(module);
        }
        engine
            .set_max_call_levels(MAX_DEPTH)
            .set_max_string_size(MAX_TEXT)
            .set_max_array_size(MAX_LIST)
            .set_max_map_size(MAX_LIST)
            .set_fail_on_invalid_map_property(true);
        allow_words(&mut engine);
        happenings(&mut engine);
        entities(&mut engine);
        prints(&mut engine);
        actions(&mut engine);
        questions(&mut engine);
        engine
    })
}

/// Lets the words of scene files be keys, though the language keeps some of them for later.
#[expect(deprecated, reason = "not deprecated, but marked so because it may still change")]
fn allow_words(engine: &mut Engine) {
    engine.on_parse_token(|token, _, _| match token {
        Token::Reserved(word) if ["spawn", "with", "exit", "call"].contains(&word.as_str()) => {
            Token::Identifier(word)
        }
        token => token,
    });
}

/// What can be asked of an event.
pub(crate) const EVENT_FIELDS: [&str; 17] = [
    "kind",
    "time",
    "on",
    "who",
    "was",
    "cue",
    "need",
    "cause",
    "edge",
    "at",
    "value",
    "before",
    "part",
    "point",
    "normal",
    "speed",
    "highlight",
];

fn happenings(engine: &mut Engine) {
    fn named(id: Option<EntityId>) -> Dynamic {
        id.map_or(Dynamic::UNIT, |id| Dynamic::from(Handle(id)))
    }
    fn text(text: Option<&str>) -> Dynamic {
        text.map_or(Dynamic::UNIT, |text| text.to_owned().into())
    }
    engine
        .register_type_with_name::<Happening>("event")
        .register_get("kind", |it: &mut Happening| it.0.kind.word().to_owned())
        .register_get("time", |it: &mut Happening| it.0.time.secs())
        .register_get("on", |it: &mut Happening| named(it.0.on))
        .register_get("who", |it: &mut Happening| named(it.0.who))
        .register_get("was", |it: &mut Happening| named(it.0.was))
        .register_get("highlight", |it: &mut Happening| named(it.0.highlight))
        .register_get("cue", |it: &mut Happening| text(it.0.cue.as_deref()))
        .register_get("need", |it: &mut Happening| text(it.0.need.as_deref()))
        .register_get("cause", |it: &mut Happening| text(it.0.cause.map(hazuro::Cause::word)))
        .register_get("edge", |it: &mut Happening| it.0.edge)
        .register_get("at", |it: &mut Happening| it.0.at.map_or(Dynamic::UNIT, place_of))
        .register_get("value", |it: &mut Happening| {
            it.0.reading.map_or(Dynamic::UNIT, |reading| reading.is.into())
        })
        .register_get("before", |it: &mut Happening| {
            it.0.reading.map_or(Dynamic::UNIT, |reading| reading.was.into())
        })
        .register_get("part", |_: &mut Happening| {
            particular(|of| of.part.map(|part| part.to_owned().into()))
        })
        .register_get("point", |_: &mut Happening| particular(|of| of.point.map(place_of)))
        .register_get("normal", |_: &mut Happening| particular(|of| of.normal.map(place_of)))
        .register_get("speed", |_: &mut Happening| particular(|of| of.speed.map(Dynamic::from)));
}

/// What else is known of the event that is handled.
fn particular(of: impl FnOnce(Particulars<'_>) -> Option<Dynamic>) -> Outcome<Dynamic> {
    acting(|act| Ok(of(act.facts().particulars()).unwrap_or(Dynamic::UNIT)))
}

fn entities(engine: &mut Engine) {
    engine.register_type_with_name::<Handle>("entity");
    for name in PROPERTIES.iter().copied() {
        engine.register_get(name, move |it: &mut Handle| {
            acting(|act| {
                if name == "slot" {
                    return Ok(slots(act.scene(), &act.facts(), it.0));
                }
                Ok(property(&act.facts(), it.0, name))
            })
        });
    }
    engine
        .register_fn("==", |one: Handle, other: Handle| one == other)
        .register_fn("!=", |one: Handle, other: Handle| one != other)
        .register_fn("to_string", |it: &mut Handle| {
            acting(|act| Ok(act.scene().name(it.0).to_owned()))
        })
        .register_fn("entity", |name: &str| {
            acting(|act| Ok(Handle(act.scene().entity_id(name).map_err(words)?)))
        })
        .register_fn("distance", |one: Handle, other: Handle| {
            acting(|act| Ok(act.facts().position(one.0).distance(act.facts().position(other.0))))
        });
}

/// What is in the slots of an entity.
fn slots(scene: &Scene, facts: &dyn Facts, of: EntityId) -> Dynamic {
    let values = scene.slot_names().iter().filter_map(|name| {
        let value = in_slot(slot_now(facts, of, name)?, |id| Dynamic::from(Handle(id)));
        Some((name.clone(), value))
    });
    Dynamic::from(Values::slots(scene.name(of), values))
}

/// Writes to the log, whatever it is.
fn prints(engine: &mut Engine) {
    #[expect(clippy::needless_pass_by_value, reason = "as the engine gives it")]
    fn print(call: &Call<'_>, what: Dynamic) -> Outcome<()> {
        let entity = what.clone().try_cast::<Handle>();
        doing(call, |act| {
            let name = entity.map(|entity| act.scene().name(entity.0).to_owned());
            act.print(name.unwrap_or_else(|| what.to_string()));
        })
    }
    engine
        .register_fn("print", |call: Call<'_>, what: Dynamic| print(&call, what))
        // For these the language has functions of its own, which write nowhere.
        .register_fn("print", |call: Call<'_>, it: ImmutableString| print(&call, it.into()))
        .register_fn("print", |call: Call<'_>, it: f64| print(&call, it.into()))
        .register_fn("print", |call: Call<'_>, it: bool| print(&call, it.into()))
        .register_fn("print", |call: Call<'_>, it: char| print(&call, it.into()))
        .register_fn("print", |call: Call<'_>, it: rhai::Array| print(&call, it.into()))
        .register_fn("print", |call: Call<'_>, it: Map| print(&call, it.into()))
        .register_fn("print", |call: Call<'_>, (): ()| print(&call, Dynamic::UNIT))
        .register_fn("print", |call: Call<'_>| print(&call, Dynamic::UNIT));
}

fn actions(engine: &mut Engine) {
    engine
        .register_fn("act", |call: Call<'_>, keys: Map| {
            let (line, keys) = (line(&call), Dynamic::from(keys));
            acting(|act| {
                act.at_line(line);
                perform(act, &keys)
            })
        })
        .register_fn("say", |call: Call<'_>, key: &str| doing(&call, |act| act.say(key)))
        .register_fn("cue", |call: Call<'_>, name: &str| doing(&call, |act| act.cue(name)))
        .register_fn("add", |call: Call<'_>, count: &str, amount: i64| {
            doing(&call, |act| act.add(count, amount))
        })
        .register_fn("set", |call: Call<'_>, count: &str, value: i64| {
            doing(&call, |act| act.set(count, value))
        })
        .register_fn("count", |name: &str| acting(|act| Ok(act.count(name))))
        .register_fn("counts", || acting(|act| Ok(Values::counts(&act.facts(), None))))
        .register_fn("flag", |name: &str| acting(|act| Ok(act.facts().flag(name))))
        .register_fn("flag", |call: Call<'_>, name: &str, up: bool| {
            doing(&call, |act| act.flag(name, up))
        })
        .register_fn("time", || acting(|act| Ok(act.time().secs())))
        .register_fn("pass_on", || {
            acting(|act| {
                act.pass_on();
                Ok(())
            })
        })
        .register_fn("on", register);
}

/// Registers a handler, as long as the script is run from top to bottom.
#[expect(clippy::needless_pass_by_value, reason = "as the engine gives it")]
fn register(context: NativeCallContext<'_>, keys: Map, run: FnPtr) -> Outcome<()> {
    let triggers = read_triggers(written(&Dynamic::from(keys), &nobody)?)?;
    let place = context.call_position();
    REGISTERED.with_borrow_mut(|registered| {
        let all = registered.as_mut();
        let all =
            all.ok_or_else(|| Box::<EvalAltResult>::from("`on` stands outside of functions"))?;
        all.push(Registered { triggers, run, place });
        Ok(())
    })
}

/// Does an action that is written as in a scene file.
fn perform(act: &mut Act<'_>, keys: &Dynamic) -> Outcome<bool> {
    let name = |entity: EntityId| act.scene().name(entity).to_owned();
    let action = read_action(written(keys, &name)?)?;
    act.run(action).map_err(words)
}
