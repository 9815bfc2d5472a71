//! What would cure what is wrong with a scene.

use super::named::{Named, Need};
use super::{Fault, SlotSort};

impl Fault {
    /// What would cure it, if that can be said.
    pub fn cure(&self) -> Option<String> {
        match self {
            Self::Unknown { nearest: Some(nearest), .. }
            | Self::NoSlot { nearest: Some(nearest), .. } => {
                Some(format!("did you mean `{nearest}`?"))
            }
            Self::Unknown { what: Named::Tag, .. } => {
                Some("a tag exists once an entity or a kind has it, or something gives it".into())
            }
            Self::Unknown { what: Named::Layer, .. } => {
                Some("a layer exists once an entity or a kind is in it".into())
            }
            Self::TooManyLayers { .. } => Some("use tags where speed is no matter".into()),
            Self::Unknown { what: Named::Text, name, .. } => {
                Some(format!("add a text with the key `{name}` to the scene"))
            }
            Self::Duplicate { first, .. } => Some(format!("the first one is at {first}")),
            Self::NoDetector { relative: Some(relative), .. } => {
                Some(format!("`{relative}` has one: wait for that instead"))
            }
            Self::NoDetector { name, detector, .. } => {
                Some(format!("give `{name}` {}", detector.noun()))
            }
            Self::Shape(error) => error.cure(),
            Self::NothingThere { .. } => {
                Some("give it a solid, a zone, a body, or a shape right here".into())
            }
            Self::LooksForNothing => Some("let it look for bodies, solids or zones".into()),
            Self::NoLength => Some("give it a direction, as in [0, 0, -5]".into()),
            Self::ParentCircle { .. } => Some("take the parent away from one of them".into()),
            Self::NobodyMeant { .. } => Some("name the entity".into()),
            Self::TooDeep { .. } => Some("make it a child of one of the first of them".into()),
            Self::KindCircle { .. } => Some("let one of them not build on the next".into()),
            Self::NotTaken { .. } => {
                Some("`tag:lamp`, `gate_*` or `*`; a kind that builds on it names it itself".into())
            }
            Self::NestedChildren { .. } => {
                Some("does a kind have a child that is of this kind itself?".into())
            }
            Self::ParentOfChild { .. } => Some("take the `parent` away".into()),
            Self::ChildAndSlot { .. } => {
                Some("rename one: a child is in the slot of its name".into())
            }
            Self::Unconvertible { feature, .. } => {
                let other = match *feature {
                    "tags" => "; `tag` and `untag` change tags",
                    "stats" => "; `stat` and effects change stats",
                    "slots" => "; `fill` changes slots",
                    "enabled" | "visible" => "; `enable`, `disable`, `show` and `hide` switch",
                    _ => "",
                };
                Some(format!("take `{feature}` away from the kind{other}"))
            }
            Self::ForeignId { .. } => {
                Some("look it up in this scene by its name: `scene.find(\"...\")`".into())
            }
            Self::DescribedOtherwise { .. } => {
                Some("give it another name, or describe it as before".into())
            }
            Self::NotInPlay { .. } => Some("`reset` or `spawn` brings it back".into()),
            Self::NoPlayer { .. } => {
                Some("only players press keys and point: make it a player".into())
            }
            Self::OtherScene => {
                Some("restore it into a play of the scene it was taken from".into())
            }
            Self::Uneven { .. } => Some("give each body one place".into()),
            Self::TooManyInputs => Some("give them as the play goes on".into()),
            Self::OnlyOne { .. } => Some("name one entity, `who` or `on`".into()),
            Self::Unable { need: Need::Stock, name, .. } => {
                Some(format!("give the kind `{name}` a stock"))
            }
            Self::Unable { need, name, .. } => Some(format!("give `{name}` {need}")),
            Self::NoSlot { kind, .. } => Some(format!("give the kind `{kind}` such a slot")),
            Self::SlotSort { need: SlotSort::Entity, .. } => Some("give the entity's name".into()),
            Self::SlotSort { need, .. } => Some(format!("give {need}")),
            Self::Slot { name, key, need: SlotSort::Entity, .. } => {
                Some(format!("give `{name}` one: slots = {{ {key} = {{ entity = \"...\" }} }}"))
            }
            Self::Slot { name, key, need, .. } => {
                Some(format!("put {need} into `{key}` of `{name}`"))
            }
            Self::NoStat { .. } => Some("`of` goes with stat, empty and full".into()),
            Self::GivesNothing => {
                Some("name something: stats, and for a grant counts, effects, tags".into())
            }
            Self::NoTeam => Some("name the tags of the teams: by = [\"red\", \"blue\"]".into()),
            Self::Placeholder { .. } => Some(
                "there are {who}, {on}, {part}, {cue}, {need}, {time}, {value}, {count.NAME}, \
                 {flag.NAME}, {who.stat.NAME} and {on.slot.NAME} and the like"
                    .into(),
            ),
            _ => None,
        }
    }
}
