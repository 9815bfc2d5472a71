//! Where each value of an entity comes from: from itself, or from which of its kinds.

use hazuro::scene::{Entity, Field, Kind};
use hazuro::{EntityId, Scene};
use toml::{Table, Value};

use crate::entity::{ChildKeys, EntityKeys, KindKeys};

/// A value that an entity has, and who gives it.
///
/// ```
/// use hazuro_format::{Source, origins, read_scene};
/// let text = "[kind.lamp]\nvisible = false\n[[entity]]\nname = \"north\"\nkind = \"lamp\"\n";
/// let scene = read_scene(&Source::new("yard.toml", text)).unwrap();
/// let all = origins(&scene, scene.find("north").unwrap());
/// assert_eq!((all[0].key.as_str(), all[0].value.as_str()), ("visible", "false"));
/// assert_eq!(all[0].kind.as_deref(), Some("lamp"));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Origin {
    /// The key, as `zone` or `stats.health`.
    pub key: String,
    /// The value, as it is written in a file; of a child the keys that are given.
    pub value: String,
    /// The kind that gives it; none if the entity does itself.
    pub kind: Option<String>,
    /// Where it is described.
    pub field: Field,
    /// Whether it counts: it does not if the key is given before.
    pub counts: bool,
}

/// What an entity and its kinds give, each key with who gives it: the one that counts first, then those that
/// it replaces.
pub fn origins(scene: &Scene, entity: EntityId) -> Vec<Origin> {
    let own = (None, scene.field(entity), own_table(scene, entity));
    let given = scene.kinds_of(entity).map(|kind| {
        let table = table_of(&KindKeys::of(kind));
        (Some(kind.name().to_owned()), kind.field(), table)
    });
    let mut all: Vec<Origin> = Vec::new();
    for (kind, field, table) in [own].into_iter().chain(given) {
        let before = all.len();
        for (key, value) in pieces(table) {
            let adds_up = key.split('.').next() == Some("tags");
            let counts = adds_up || !all[..before].iter().any(|it| same(&it.key, &key));
            let keys = value.as_str().filter(|_| key.starts_with("children."));
            let value = keys.map_or_else(|| value.to_string(), ToOwned::to_owned);
            let kind = kind.clone();
            let field = key.split('.').fold(field.clone(), |field, key| field.key(key));
            all.push(Origin { key, value, kind, field, counts });
        }
    }
    all.sort_by(|one, other| group(&one.key).cmp(group(&other.key)));
    all.splice(..0, place(scene, entity));
    all
}

/// What an entity gives itself, but for where it is.
fn own_table(scene: &Scene, entity: EntityId) -> Table {
    let described = scene.entity(entity);
    if scene.is_made(entity) {
        table_of(&ChildKeys::of(described))
    } else {
        table_of(&EntityKeys::of(described))
    }
}

fn table_of(keys: &impl serde::Serialize) -> Table {
    let mut table = Table::try_from(keys).unwrap_or_default();
    for key in ["name", "kind", "for", "stock", "parent", "allow", "at", "turn", "rotation"] {
        table.remove(key);
    }
    table
}

/// Its keys, those of which some may come from here and some from there each by itself.
fn pieces(table: Table) -> Vec<(String, Value)> {
    let mut pieces = Vec::new();
    for (key, value) in table {
        match (key.as_str(), value) {
            ("stats" | "slots", Value::Table(inside)) => {
                pieces.extend(inside.into_iter().map(|(name, it)| (format!("{key}.{name}"), it)));
            }
            ("children", Value::Table(inside)) => {
                let named = |(name, it): (String, Value)| {
                    let keys = it.as_table().map(|it| it.keys().cloned().collect::<Vec<_>>());
                    let keys = keys.unwrap_or_default().join(", ");
                    (format!("children.{name}"), Value::String(keys))
                };
                pieces.extend(inside.into_iter().map(named));
            }
            (_, value) => pieces.push((key, value)),
        }
    }
    pieces
}

/// Keys that are given or replaced together.
fn group(key: &str) -> &str {
    match key {
        "cooldown_shared" | "limit" | "once" => "cooldown",
        "interact" => "prompt",
        key => key,
    }
}

fn same(one: &str, other: &str) -> bool {
    // Of children both are described, the one further.
    group(one) == group(other) && !one.starts_with("children.")
}

/// Where an entity is, and who says so.
fn place(scene: &Scene, entity: EntityId) -> Option<Origin> {
    let described = scene.entity(entity);
    let position = described.own_pose()?.position.to_array();
    let value = Value::Array(position.into_iter().map(Value::Float).collect()).to_string();
    let origin = |kind: Option<String>, field: Field| {
        let (key, field) = ("at".to_owned(), field.key("at"));
        Some(Origin { key, value, kind, field, counts: true })
    };
    let Some(parent) = scene.parent(entity).filter(|_| scene.is_made(entity)) else {
        return origin(None, scene.field(entity));
    };
    let name = described.name().rsplit('/').next().unwrap_or_default();
    let says = |children: &[Entity]| {
        children.iter().any(|it| it.name() == name && it.own_pose().is_some())
    };
    if says(scene.entity(parent).own_children()) {
        return origin(None, scene.field(entity));
    }
    let kind = scene.kinds_of(parent).find(|kind| says(kind.own_children()))?;
    let of_child = |kind: &Kind| format!("{}/{name}", kind.name());
    origin(Some(of_child(kind)), kind.field().key("children").key(name))
}
