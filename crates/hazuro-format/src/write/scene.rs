//! From a scene back to a scene file.

use std::collections::BTreeMap;

use hazuro::Scene;
use hazuro::scene::{Field, Floor, SceneBuilder, Text};

use super::reaction;
use crate::entity::{ChildKeys, EntityKeys, KindKeys};
use crate::keys::one_or_many::TextKeys;
use crate::keys::reaction::ReactionKeys;
use crate::keys::scene::{FloorKeys, HeadKeys, SceneKeys};
use crate::number::EffectKeys;

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
                let (field, mut keys) = (kind.field(), KindKeys::of(kind));
                allow_below(scene, &field, &mut keys.children);
                (kind.name().to_owned(), KindKeys { allow: allowed(scene, &field), ..keys })
            })
            .collect(),
        entity: scene
            .described()
            .filter(|id| !scene.is_made(*id))
            .map(|id| {
                let (field, mut keys) = (scene.field(id), EntityKeys::of(scene.entity(id)));
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
