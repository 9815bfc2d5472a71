//! The questions that a script asks of space.

use hazuro::geometry::{Pose, Ray, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::Facts;
use hazuro::{Act, EntityId, Filter, Hit};
use hazuro_format::read_shape;
use rhai::{Dynamic, Engine, EvalAltResult, ImmutableString, Map};

use crate::lending::{Handle, Outcome, acting, nobody, place_of, words, written};

/// Lets scripts ask.
pub(crate) fn questions(engine: &mut Engine) {
    engine
        .register_fn("ray", |from: Dynamic, to: Dynamic| ray(&from, &to, &Map::new()))
        .register_fn("ray", |from: Dynamic, to: Dynamic, of: Map| ray(&from, &to, &of))
        .register_fn("sweep", |shape: Map, from: Dynamic, to: Dynamic| {
            sweep(shape, &from, &to, &Map::new())
        })
        .register_fn("sweep", |shape: Map, from: Dynamic, to: Dynamic, of: Map| {
            sweep(shape, &from, &to, &of)
        })
        .register_fn("overlap", |shape: Map, at: Dynamic| overlap(shape, &at, &Map::new()))
        .register_fn("overlap", |shape: Map, at: Dynamic, of: Map| overlap(shape, &at, &of))
        .register_fn("screen_ray", |player: Dynamic, pixel: rhai::Array| {
            screen_ray(&player, &pixel)
        })
        .register_fn("nearest", |to: Dynamic, reach: Dynamic| closest(&to, &reach, &Map::new()))
        .register_fn("nearest", |to: Dynamic, reach: Dynamic, of: Map| closest(&to, &reach, &of));
}

/// A question with its filter, which is written as a table: what `of` it is about (`solids`,
/// `bodies`, `zones`), a `tag`, `layers`, and `without` whose family.
fn asking<T>(of: &Map, ask: impl FnOnce(&mut Act<'_>, &Filter<'_>) -> Outcome<T>) -> Outcome<T> {
    let bad = |message: String| -> Box<EvalAltResult> { message.into() };
    acting(|act| {
        let mut filter = Filter::solids().and_bodies();
        let mut tag = ImmutableString::new();
        let mut has_tag = false;
        for (key, value) in of {
            let words = || -> Outcome<Vec<String>> {
                let list = value.clone().into_typed_array::<ImmutableString>();
                let one = || value.clone().into_immutable_string().map(|word| vec![word]);
                let words = list.or_else(|_| one());
                let words =
                    words.map_err(|_| bad(format!("`{key}` is a word or a list of words")))?;
                Ok(words.iter().map(ToString::to_string).collect())
            };
            match key.as_str() {
                "of" => {
                    let words = words()?;
                    let has = |word: &str| words.iter().any(|it| it == word);
                    if let Some(other) = words
                        .iter()
                        .find(|it| !["solids", "bodies", "zones"].contains(&it.as_str()))
                    {
                        return Err(bad(format!("there are solids, bodies and zones, no {other}")));
                    }
                    filter = Filter::default();
                    filter = if has("solids") { filter.and_solids() } else { filter };
                    filter = if has("bodies") { filter.and_bodies() } else { filter };
                    filter = if has("zones") { filter.and_zones() } else { filter };
                }
                "layers" => {
                    let words = words()?;
                    let layers = act.scene().layers(words.iter().map(String::as_str));
                    filter = filter.layers(layers.map_err(self::words)?);
                }
                "tag" => {
                    tag = words()?.pop().unwrap_or_default().into();
                    has_tag = true;
                }
                "without" => filter = filter.without(entity_of(act, value)?),
                key => {
                    return Err(bad(format!("`{key}` is none of of, layers, tag, without")));
                }
            }
        }
        let filter = if has_tag { filter.tag(&tag) } else { filter };
        ask(act, &filter)
    })
}

fn entity_of(act: &Act<'_>, value: &Dynamic) -> Outcome<EntityId> {
    if let Some(handle) = value.clone().try_cast::<Handle>() {
        return Ok(handle.0);
    }
    let name = value.clone().into_immutable_string();
    let name = name.map_err(|_| Box::<EvalAltResult>::from("an entity or its name is wanted"))?;
    act.scene().entity_id(name.as_str()).map_err(words)
}

/// A place: `[x, y, z]`, or where an entity is.
fn place(act: &Act<'_>, value: &Dynamic) -> Outcome<DVec3> {
    if let Some(list) = value.read_lock::<rhai::Array>() {
        let numbers: Vec<f64> = list.iter().filter_map(number).collect();
        return match numbers.as_slice() {
            [x, y, z] if list.len() == 3 && numbers.iter().all(|it| it.is_finite()) => {
                Ok(DVec3::new(*x, *y, *z))
            }
            _ => Err("a place is [x, y, z], or an entity".into()),
        };
    }
    Ok(act.facts().position(entity_of(act, value)?))
}

fn number(value: &Dynamic) -> Option<f64> {
    value.as_float().or_else(|_| value.as_int().map(|whole| whole as f64)).ok()
}

fn shape_of(keys: Map) -> Outcome<Shape> {
    let shape = read_shape(written(&Dynamic::from(keys), &nobody)?)?;
    shape.ok_or_else(|| "a shape is wanted, as #{ box: [1, 1, 1] }".into())
}

fn hit_of(hit: Option<Hit>) -> Dynamic {
    let Some(hit) = hit else { return Dynamic::UNIT };
    let mut map = Map::new();
    map.insert("entity".into(), Dynamic::from(Handle(hit.entity)));
    map.insert("distance".into(), hit.distance.into());
    map.insert("point".into(), place_of(hit.point));
    map.insert("normal".into(), place_of(hit.normal));
    map.into()
}

fn ray(from: &Dynamic, to: &Dynamic, of: &Map) -> Outcome<Dynamic> {
    asking(of, |act, filter| {
        let (from, to) = (place(act, from)?, place(act, to)?);
        let ray = Ray::between(from, to).map_err(|error| error.to_string())?;
        Ok(hit_of(act.space().ray(&ray, filter)))
    })
}

/// How far the ray through a point of the screen goes, in metres.
const FAR: f64 = 1000.0;

/// From where to where the ray through a point of a player's screen goes; nothing without a camera.
fn screen_ray(player: &Dynamic, pixel: &[Dynamic]) -> Outcome<Dynamic> {
    acting(|act| {
        let player = entity_of(act, player)?;
        let numbers: Vec<f64> = pixel.iter().filter_map(number).collect();
        let [x, y] = numbers[..] else {
            return Err("a point of the screen is [x, y], in pixels from the top left".into());
        };
        let Some(ray) = act.screen_ray(player, [x, y]).map_err(words)? else {
            return Ok(Dynamic::UNIT);
        };
        let mut map = Map::new();
        map.insert("from".into(), place_of(ray.origin()));
        map.insert("to".into(), place_of(ray.at(FAR)));
        Ok(map.into())
    })
}

fn sweep(shape: Map, from: &Dynamic, to: &Dynamic, of: &Map) -> Outcome<Dynamic> {
    let shape = shape_of(shape)?;
    asking(of, |act, filter| {
        let (from, to) = (place(act, from)?, place(act, to)?);
        let hit = act.space().sweep(&shape, Pose::from(from), to, filter);
        Ok(hit_of(hit.map_err(|error| error.to_string())?))
    })
}

fn overlap(shape: Map, at: &Dynamic, of: &Map) -> Outcome<rhai::Array> {
    let shape = shape_of(shape)?;
    asking(of, |act, filter| {
        let at = place(act, at)?;
        let found = act.space().overlap(&shape, Pose::from(at), filter);
        let found = found.map_err(|error| error.to_string())?;
        Ok(found.into_iter().map(|found| Dynamic::from(Handle(found.entity))).collect())
    })
}

fn closest(to: &Dynamic, reach: &Dynamic, of: &Map) -> Outcome<Dynamic> {
    let reach = number(reach).filter(|reach| *reach >= 0.0);
    let reach = reach.ok_or_else(|| Box::<EvalAltResult>::from("a reach is a number from 0"))?;
    asking(of, |act, filter| {
        let to = place(act, to)?;
        let found = act.space().nearest(to, reach, 1, filter);
        Ok(found.first().map_or(Dynamic::UNIT, |found| Dynamic::from(Handle(found.entity))))
    })
}
