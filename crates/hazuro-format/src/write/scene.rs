//! From a scene back to a scene file.

use std::collections::BTreeMap;

use hazuro::Scene;
use hazuro::scene::{
    Admit, Body, Detectors, Entity, Field, Floor, Kind, Legs, Part, Prompt, SceneBuilder, Text,
};

use super::reaction;
use crate::keys::one_or_many::{Names, TextKeys};
use crate::keys::reaction::ReactionKeys;
use crate::keys::scene::{
    AdmitKeys, BodyKeys, ChildKeys, EntityKeys, FloorKeys, HeadKeys, KindKeys, PartKeys,
    RefuseKeys, SceneKeys, SolidKeys, ZoneKeys,
};
use crate::keys::shape::pose_keys;
use crate::number::EffectKeys;
use crate::read::slot_keys;
use crate::table::{Degrees, Notation, Table};

/// The text of a scene file, in TOML, that reads as this scene.
///
/// Conditions are written as their text, so only those that were read from a file can be read
/// back. Scripts are only named.
///
/// ```
/// use hazuro_format::{Source, read_scene, write_scene};
/// let source = Source::new("yard.toml", "[[entity]]\nname = \"gate\"\nat = [0, 1, 0]\n");
/// let scene = read_scene(&source).unwrap();
/// let again = read_scene(&Source::new("again.toml", write_scene(&scene))).unwrap();
/// assert_eq!(scene, again);
/// ```
///
/// # Panics
/// Never: every scene can be written.
pub fn write_scene(scene: &Scene) -> String {
    let keys = SceneKeys {
        scene: HeadKeys {
            name: Some(scene.title().into()),
            rate: Some(scene.rate()),
            seed: Some(scene.seed()),
            gravity: (scene.gravity().to_bits() != SceneBuilder::GRAVITY.to_bits())
                .then(|| scene.gravity()),
            floor: match scene.floor() {
                Floor::Lowest => None,
                Floor::At(height) => Some(FloorKeys::Height(height)),
                Floor::Missing => Some(FloorKeys::There(false)),
            },
            counts: scene.counts().clone(),
            flags: scene.flags().clone(),
            language: (scene.language() != SceneBuilder::LANGUAGE).then(|| scene.language().into()),
            scripts: scene.scripts().to_vec(),
            allow: allowed(scene, &Field::ROOT),
        },
        kind: scene
            .kinds()
            .iter()
            .filter(|kind| !kind.is_of_child())
            .map(|kind| {
                let (field, mut keys) = (kind.field(), write_kind(kind));
                allow_below(scene, &field, &mut keys.children);
                (kind.name().to_owned(), KindKeys { allow: allowed(scene, &field), ..keys })
            })
            .collect(),
        entity: scene
            .described()
            .filter(|id| !scene.is_made(*id))
            .map(|id| {
                let (field, mut keys) = (scene.field(id), write_entity(scene.entity(id)));
                allow_below(scene, &field, &mut keys.children);
                EntityKeys { allow: allowed(scene, &field), ..keys }
            })
            .collect(),
        reaction: scene
            .reactions()
            .iter()
            .enumerate()
            .map(|(index, reaction)| {
                let allow = allowed(scene, &Field::ROOT.key("reaction").item(index));
                ReactionKeys { allow, ..reaction::reaction(reaction) }
            })
            .collect(),
        effect: scene
            .effects()
            .iter()
            .map(|effect| (effect.name().to_owned(), EffectKeys::of(effect)))
            .collect(),
        texts: scene.texts().iter().map(|(key, text)| (key.clone(), write_text(text))).collect(),
    };
    // By way of a table: the keys are then compiled for one writer and not for all of TOML's.
    toml::Table::try_from(&keys)
        .and_then(|table| toml::to_string(&table))
        .expect("a scene is tables of text keys and plain values")
}

/// The findings allowed at a field: by code, why.
fn allowed(scene: &Scene, field: &Field) -> BTreeMap<String, String> {
    let here = scene.allowances().iter().filter(|it| it.field == *field);
    here.map(|it| (it.finding.clone(), it.because.clone())).collect()
}

/// The same for the children of what is described at a field.
fn allow_below(scene: &Scene, field: &Field, children: &mut BTreeMap<String, ChildKeys>) {
    for (name, child) in children {
        let field = field.key("children").key(name);
        child.allow = allowed(scene, &field);
        allow_below(scene, &field, &mut child.children);
    }
}

fn write_text(text: &Text) -> TextKeys {
    let mut languages = text.languages();
    match (languages.next(), languages.next()) {
        (Some(("", text)), None) => TextKeys::Plain(text.into()),
        _ => TextKeys::ByLanguage(
            text.languages().map(|(language, text)| (language.into(), text.into())).collect(),
        ),
    }
}

/// The table of a kind or an entity, with the features that it has.
macro_rules! with_features {
    ($owner:ident, $keys:ident { $($own:tt)* }) => {
        $keys {
            allow: BTreeMap::new(),
            kind: names($owner.own_kinds()),
            children: $owner
                .own_children()
                .iter()
                .map(|child| (child.name().to_owned(), write_child(child)))
                .collect(),
            tags: $owner.own_tags().to_vec(),
            layers: $owner.own_layers().to_vec(),
            scale: $owner.own_scale(),
            enabled: $owner.own_enabled(),
            visible: $owner.own_visible(),
            zone: $owner.own_zone().map(|zone| {
                let inside_every = zone.inside_interval();
                ZoneKeys { inside_every, ..ZoneKeys::default() }.shaped(zone.shape())
            }),
            admit: $owner.own_admit().map(write_admit),
            solid: $owner.own_solid().map(|solid| SolidKeys::default().shaped(solid)),
            body: $owner.own_body().map(write_body),
            camera: $owner.own_camera().map(Table::keys),
            interact: interact($owner.own_detectors()),
            cooldown: $owner.own_limits().map(|limits| limits.cooldown).filter(|it| *it != 0.0),
            cooldown_shared: $owner.own_limits().and_then(|limits| limits.shared.then_some(true)),
            once: None,
            limit: $owner.own_limits().and_then(|limits| limits.limit),
            player: $owner.own_player(),
            highlight: $owner.own_highlight(),
            stats: $owner
                .own_stats()
                .iter()
                .map(|(name, stat)| (name.clone(), stat.keys()))
                .collect(),
            slots: slot_keys($owner.own_slots()),
            pickup: $owner.own_pickup().map(Table::keys),
            carry: $owner.own_carry().map(Table::keys),
            ownership: $owner.own_ownership().map(Table::keys),
            route: $owner.own_route().map(Table::keys),
            spawner: $owner.own_spawner().map(Table::keys),
            $($own)*
        }
    };
}

/// One name, or a list of them; none of none.
fn names(names: &[String]) -> Option<Names> {
    match names {
        [] => None,
        [name] => Some(Names::One(name.clone())),
        names => Some(Names::Many(names.to_vec())),
    }
}

/// The keys of where something is, if that is described.
fn place_keys(entity: &Entity) -> (Option<[f64; 3]>, Option<f64>, Option<[f64; 4]>) {
    match entity.own_pose().as_ref().map(pose_keys) {
        // At the origin, if that is said.
        Some((None, None, None)) => (Some([0.0; 3]), None, None),
        keys => keys.unwrap_or_default(),
    }
}

/// The keys of what is used without an offer, which is described as a prompt.
fn interact(detectors: &Detectors) -> Option<<Prompt as Table>::Keys> {
    detectors.prompt.as_ref().filter(|prompt| prompt.quiet).map(Table::keys)
}

macro_rules! kinds_and_entities {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        pub(super) fn write_kind(kind: &Kind) -> KindKeys {
            let stock = (kind.stock_size() > 0).then(|| kind.stock_size());
            let detectors = kind.own_detectors();
            let taken: Vec<String> = kind.taken().iter().map(ToString::to_string).collect();
            let keys = with_features!(kind, KindKeys {
                stock,
                taken: names(&taken),
                $($key: detectors.$key.as_ref().map(Table::keys),)*
            });
            KindKeys { prompt: keys.prompt.filter(|_| keys.interact.is_none()), ..keys }
        }

        pub(super) fn write_entity(entity: &Entity) -> EntityKeys {
            let (at, turn, rotation) = place_keys(entity);
            let detectors = entity.own_detectors();
            let keys = with_features!(entity, EntityKeys {
                name: entity.name().into(),
                parent: entity.parent_name().map(Into::into),
                at,
                turn,
                rotation,
                $($key: detectors.$key.as_ref().map(Table::keys),)*
            });
            EntityKeys { prompt: keys.prompt.filter(|_| keys.interact.is_none()), ..keys }
        }

        pub(super) fn write_child(child: &Entity) -> ChildKeys {
            let (at, turn, rotation) = place_keys(child);
            let detectors = child.own_detectors();
            let keys = with_features!(child, ChildKeys {
                at,
                turn,
                rotation,
                $($key: detectors.$key.as_ref().map(Table::keys),)*
            });
            ChildKeys { prompt: keys.prompt.filter(|_| keys.interact.is_none()), ..keys }
        }
    };
}

hazuro::for_each_detector!(kinds_and_entities);

fn write_admit(admit: &Admit) -> AdmitKeys {
    let [tags, kinds, names] = admit.admitted().map(<[String]>::to_vec);
    let [layers, not_layers] = admit.layer_lists().map(<[String]>::to_vec);
    let refused = admit.refused();
    let refuses = refused.iter().any(|list| !list.is_empty()) || !not_layers.is_empty();
    let not = refuses.then(|| {
        let [tags, kinds, names] = refused.map(<[String]>::to_vec);
        RefuseKeys { tags, kinds, names, layers: not_layers }
    });
    let players = admit.is_for_players().then_some(true);
    let condition = admit.condition().map(|condition| condition.text().into());
    AdmitKeys { tags, kinds, names, layers, players, condition, not }
}

fn write_body(body: &Body) -> BodyKeys {
    let keys = match body.shape() {
        Some(shape) => BodyKeys::default().shaped(shape),
        None => BodyKeys {
            parts: Some(body.parts().iter().map(write_part).collect()),
            ..BodyKeys::default()
        },
    };
    legs(body, keys)
}

/// The keys for a body's legs.
fn legs(body: &Body, keys: BodyKeys) -> BodyKeys {
    let (legs, usual) = (body.walking_legs(), Legs::default());
    let other = |own: f64, usual: f64| (own.to_bits() != usual.to_bits()).then_some(own);
    let slope = other(legs.slope, usual.slope).map(|it| Degrees::write(&it));
    BodyKeys {
        walk: body.walking_speed(),
        jump: other(legs.jump, usual.jump),
        step: other(legs.step, usual.step),
        slope,
        blocks: body.is_blocking().then_some(true),
        ..keys
    }
}

fn write_part(part: &Part) -> PartKeys {
    let (at, turn, rotation) = pose_keys(&part.pose());
    let name = Some(part.name().to_owned());
    PartKeys { name, at, turn, rotation, ..PartKeys::default() }.shaped(part.shape())
}
