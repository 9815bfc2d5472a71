//! What can be wrong with a scene.

use std::fmt;

use thiserror::Error;

use crate::geometry::ShapeError;
use crate::shown::{number, short};

use super::most::{MAX_CHILD_KINDS, MAX_DEPTH, MAX_KINDS, MAX_MADE, MAX_NESTED, MAX_PLANNED};
use super::named::{Named, Need};
use super::{Detector, EventKind, Field, SlotSort};

/// One thing wrong with a scene.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{field}: {fault}")]
pub struct SceneError {
    /// Where.
    pub field: Field,
    /// What.
    pub fault: Fault,
}

/// What is wrong with a field of a scene.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum Fault {
    /// A name that nothing has.
    #[error("there is no {what} named `{}`", short(name))]
    Unknown {
        /// What was looked for.
        what: Named,
        /// The name that was given.
        name: String,
        /// The nearest name that exists.
        nearest: Option<String>,
    },
    /// Two things of the same sort have one name.
    #[error("there is already {article} {what} named `{}`", short(name), article = what.article())]
    Duplicate {
        /// Of which sort.
        what: Named,
        /// The name.
        name: String,
        /// Where the other one is.
        first: Field,
    },
    /// Something is to be added under the name of what is described otherwise.
    #[error("`{}` has been in the play before, and was described otherwise", short(name))]
    DescribedOtherwise {
        /// The name.
        name: String,
    },
    /// A name that cannot be one.
    #[error("`{}` cannot be a name: {why}", short(name))]
    BadName {
        /// The name that was given.
        name: String,
        /// Why not.
        why: &'static str,
    },
    /// More layers than there can be.
    #[error(
        "the layer `{}` is one too many: a scene has at most 64, `default` included",
        short(name)
    )]
    TooManyLayers {
        /// The first for which there is no room.
        name: String,
    },
    /// An entity is its own ancestor.
    #[error("these are each other's parents, in a circle: {}", circle(names))]
    ParentCircle {
        /// The names along the circle, the first one again at the end.
        names: Vec<String>,
    },
    /// An entity with too many ancestors.
    #[error("`{}` has more than {MAX_DEPTH} ancestors", short(name))]
    TooDeep {
        /// The first in the scene's order that is too deep.
        name: String,
    },
    /// A kind that builds on itself.
    #[error("these kinds build on each other, in a circle: {}", circle(names))]
    KindCircle {
        /// The names along the circle, the first one again at the end.
        names: Vec<String>,
    },
    /// More kinds than can count for one.
    #[error("more than {MAX_KINDS} kinds count for `{}`", short(name))]
    TooManyKinds {
        /// The entity or kind.
        name: String,
    },
    /// A kind that is to be everybody's of a kind or in a layer.
    #[error("a kind is for a tag, for names or for all, not for `{}`", short(whom))]
    NotTaken {
        /// For whom it is to be.
        whom: String,
    },
    /// Kinds that give their children children without end.
    #[error(
        "children of kinds nest more than {MAX_NESTED} deep, or make more than {MAX_CHILD_KINDS} kinds: `{}`",
        short(name)
    )]
    NestedChildren {
        /// A child that is too deep.
        name: String,
    },
    /// More children than there can be.
    #[error("the children of `{}` are too many: there can be {MAX_MADE} in all", short(name))]
    TooManyChildren {
        /// The first whose children there is no room for.
        name: String,
    },
    /// A child that is given another parent.
    #[error("`{}` has a parent already: what it is described with", short(name))]
    ParentOfChild {
        /// The child.
        name: String,
    },
    /// A child and a slot of one name.
    #[error("`{}` is both a child and a slot", short(name))]
    ChildAndSlot {
        /// Their name.
        name: String,
    },
    /// A kind to which something is to be converted that gives what no conversion changes.
    #[error("nothing can be converted to `{}`, which gives `{feature}`", short(kind))]
    Unconvertible {
        /// The kind.
        kind: String,
        /// What it gives, by its key in files.
        feature: &'static str,
    },
    /// The id of an entity or reaction of another scene.
    #[error("this is the id of {what} {number} of another scene")]
    ForeignId {
        /// An entity or a reaction.
        what: Named,
        /// Its index in that scene, from 0.
        number: usize,
    },
    /// Something is to be moved that is not in the play.
    #[error("`{}` is not in the play now: it was removed, or is still in stock", short(name))]
    NotInPlay {
        /// The entity.
        name: String,
    },
    /// Something that is no player is to press a key, use a prompt or point.
    #[error("`{}` is no player", short(name))]
    NoPlayer {
        /// The entity.
        name: String,
    },
    /// A state of a play of another scene.
    #[error("this is the state of a play of another scene")]
    OtherScene,
    /// As many bodies as places are needed.
    #[error("there are {bodies} bodies and {places} places for them")]
    Uneven {
        /// How many bodies were given.
        bodies: usize,
        /// How many places were given.
        places: usize,
    },
    /// More than can be kept in mind at once.
    #[error("there are {MAX_PLANNED} inputs waiting already")]
    TooManyInputs,
    /// A number that is not finite or out of range.
    #[error("{} is not {need}", number(*value))]
    Number {
        /// What was given.
        value: f64,
        /// What it must be, as in `a number of seconds from 0`.
        need: &'static str,
    },
    /// A shape that cannot be.
    #[error(transparent)]
    Shape(#[from] ShapeError),
    /// A body without any part.
    #[error("a body needs at least one part")]
    NoParts,
    /// A detector without anything to detect on.
    #[error("there is nothing here to {detector}: the entity has no shape")]
    NothingThere {
        /// The detector.
        detector: Detector,
    },
    /// A way that leads nowhere.
    #[error("this leads nowhere: it has no length")]
    NoLength,
    /// A way or a teleport with too few places.
    #[error("there are too few places here to go to")]
    Nowhere,
    /// A spawner whose entity has no zone, or whose bounds have none.
    #[error("`{name}` has no zone, which says where")]
    NoArea {
        /// The entity.
        name: String,
    },
    /// A spawner that is to keep more than there are.
    #[error("`keep` is {keep}, but the kind `{kind}` has a stock of {stock}")]
    SmallStock {
        /// How many it is to keep.
        keep: usize,
        /// Of which kind.
        kind: String,
        /// How many of it are in stock.
        stock: u32,
    },
    /// A detector that looks for neither solids nor bodies nor zones.
    #[error("this looks for nothing")]
    LooksForNothing,
    /// A rotation that is none.
    #[error("a rotation is a quaternion [x, y, z, w] of length 1")]
    Rotation,
    /// A reaction waits for something that its target cannot do.
    #[error("`{name}` has no {detector}, so it never has the event `{event}`")]
    NoDetector {
        /// The event waited for.
        event: EventKind,
        /// The detector that has such events.
        detector: Detector,
        /// The target.
        name: String,
        /// A child or the parent of the target that has one.
        relative: Option<String>,
    },
    /// An event that no detector has.
    #[error("`{event}` is no event of a detector")]
    NeverDetected {
        /// The event waited for.
        event: EventKind,
    },
    /// `first` or `last` of an event that neither opens nor closes.
    #[error("`{event}` has neither a first nor a last")]
    NoEdge {
        /// The event waited for.
        event: EventKind,
    },
    /// A text with a placeholder that is never filled.
    #[error("the text has {{{}}}, which is never filled", short(name))]
    Placeholder {
        /// The name between the braces.
        name: String,
    },
    /// Something is told to do what it cannot.
    #[error("`{action}` needs {need}, and `{name}` has none")]
    Unable {
        /// The action's word.
        action: &'static str,
        /// What is acted on.
        name: String,
        /// What it would need.
        need: Need,
    },
    /// Several entities where only one can be meant.
    #[error("`{}` means several, and this can only be one", short(name))]
    OnlyOne {
        /// The name that was given.
        name: String,
    },
    /// An entity with a slot that its kind does not have.
    #[error("the kind `{}` has no slot `{}`", short(kind), short(name))]
    NoSlot {
        /// The slot.
        name: String,
        /// The kind, which has others.
        kind: String,
        /// The most similar one of the kind.
        nearest: Option<String>,
    },
    /// An entity with something of another sort in a slot of its kind.
    #[error("the slot `{}` is for {need}, and this is {is}", short(key))]
    SlotSort {
        /// The slot.
        key: String,
        /// What is there.
        is: SlotSort,
        /// What the slot is for.
        need: SlotSort,
    },
    /// A slot that does not hold what is needed.
    #[error("{}", slot(name, key, *is, *need))]
    Slot {
        /// Whose slot.
        name: String,
        /// The slot.
        key: String,
        /// What is in it; none if it is empty.
        is: Option<SlotSort>,
        /// What is needed.
        need: SlotSort,
    },
    /// A formula that does not give what is needed.
    #[error("`{}`: {why}", short(text))]
    Formula {
        /// The formula.
        text: String,
        /// Why not, in full.
        why: String,
    },
    /// A stat named with an event that is of none.
    #[error("`{event}` is no event of a stat")]
    NoStat {
        /// The event waited for.
        event: EventKind,
    },
    /// A wait where there is nothing to come after it.
    #[error("only a reaction can wait")]
    Waits,
    /// A grant or an effect without anything in it.
    #[error("there is nothing in it")]
    GivesNothing,
    /// What only teams may own, without a team.
    #[error("there is no team that may own it")]
    NoTeam,
    /// `who` or `on` where the event has none.
    #[error("`{word}` means nobody here: {event} has no {role}")]
    NobodyMeant {
        /// `who` or `on`.
        word: String,
        /// The event waited for.
        event: &'static str,
        /// `subject` or `detector`.
        role: &'static str,
    },
}

fn slot(name: &str, key: &str, is: Option<SlotSort>, need: SlotSort) -> String {
    let (name, key) = (short(name), short(key));
    match is {
        Some(is) => format!("the slot `{key}` of `{name}` has {is} in it, and {need} is needed"),
        None => format!("`{name}` has nothing in a slot `{key}`, and {need} is needed"),
    }
}

fn circle(names: &[String]) -> String {
    const MOST: usize = 8;
    let mut shown: Vec<_> = names.iter().take(MOST).map(|name| short(name)).collect();
    if names.len() > MOST {
        shown.push(format!("… ({} in all)", names.len() - 1));
    }
    shown.join(" → ")
}

/// The code of each fault.
macro_rules! codes {
    ($($fault:ident $code:literal,)*) => {
        impl Fault {
            /// The codes that faults have.
            pub const CODES: &[&str] = &[$($code),*];

            /// A short name that stays the same from version to version: one of [`CODES`](Self::CODES).
            pub fn code(&self) -> &'static str {
                match self {
                    $(Self::$fault { .. } => $code,)*
                }
            }
        }
    };
}

codes! {
    Unknown "unknown-name",
    Duplicate "duplicate-name",
    DescribedOtherwise "described-otherwise",
    BadName "bad-name",
    TooManyLayers "too-many-layers",
    ParentCircle "parent-circle",
    TooDeep "too-deep",
    KindCircle "kind-circle",
    TooManyKinds "too-many-kinds",
    NotTaken "not-taken",
    NestedChildren "too-many-children",
    TooManyChildren "too-many-children",
    ParentOfChild "parent-of-child",
    ChildAndSlot "child-and-slot",
    Unconvertible "unconvertible",
    ForeignId "foreign-id",
    NotInPlay "not-in-play",
    NoPlayer "no-player",
    OtherScene "other-scene",
    Uneven "uneven",
    TooManyInputs "too-many-inputs",
    Number "bad-number",
    Shape "bad-shape",
    NoParts "no-parts",
    NothingThere "nothing-there",
    NoLength "no-length",
    Nowhere "nowhere",
    NoArea "no-area",
    SmallStock "small-stock",
    LooksForNothing "looks-for-nothing",
    Rotation "bad-rotation",
    NoDetector "no-detector",
    NeverDetected "never-detected",
    NoEdge "no-edge",
    Placeholder "bad-placeholder",
    NobodyMeant "nobody-meant",
    Unable "unable",
    OnlyOne "only-one",
    NoStat "no-stat",
    NoSlot "no-slot",
    SlotSort "bad-slot",
    Slot "bad-slot",
    Formula "bad-formula",
    Waits "waits",
    GivesNothing "gives-nothing",
    NoTeam "no-team",
}

/// Everything wrong with a scene, in the order of the description; at least one thing.
#[derive(Clone, Debug, PartialEq)]
pub struct SceneErrors(pub(crate) Vec<SceneError>);

impl SceneErrors {
    /// The errors.
    pub fn iter(&self) -> std::slice::Iter<'_, SceneError> {
        self.0.iter()
    }
}

impl<'a> IntoIterator for &'a SceneErrors {
    type Item = &'a SceneError;
    type IntoIter = std::slice::Iter<'a, SceneError>;
    fn into_iter(self) -> Self::IntoIter {
        self.iter()
    }
}

impl fmt::Display for SceneErrors {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let [first, others @ ..] = self.0.as_slice() else {
            return Ok(());
        };
        write!(f, "{first}")?;
        for other in others {
            write!(f, "\n{other}")?;
        }
        Ok(())
    }
}

impl std::error::Error for SceneErrors {}

/// The name in `known` that is most like `name`, if any is like it at all.
pub fn nearest<'a>(name: &str, known: impl IntoIterator<Item = &'a str>) -> Option<String> {
    // What takes its lengths' product is not done to what nobody has typed.
    const LONGEST: usize = 64;
    let mut best: Option<(f64, &str)> = None;
    let length = name.chars().take(LONGEST + 1).count();
    if length > LONGEST {
        return None;
    }
    let given = name.to_lowercase();
    for candidate in known {
        let known_length = candidate.chars().take(LONGEST + 1).count();
        if known_length > LONGEST {
            continue;
        }
        let known = candidate.to_lowercase();
        let likeness = strsim::jaro_winkler(&given, &known);
        // The one measure knows long words, the other slips of the finger in short ones.
        let slip =
            || length.abs_diff(known_length) <= 1 && strsim::osa_distance(&given, &known) == 1;
        let alike = likeness > 0.8 || slip();
        if alike && best.is_none_or(|(most, _)| likeness > most) {
            best = Some((likeness, candidate));
        }
    }
    best.map(|(_, name)| name.to_owned())
}
