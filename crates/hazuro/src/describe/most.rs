//! How much there may be.

/// The greatest distance, in metres, of anything from the origin of its frame.
pub(crate) const MAX_COORDINATE: f64 = 1e6;
/// The most that a stat can be, or its least, and the most that one action can change it by.
pub(crate) const MAX_AMOUNT: f64 = 1e15;
/// The most characters that a name can have.
pub(crate) const MAX_NAME: usize = 200;
/// The most ancestors that an entity can have.
pub(crate) const MAX_DEPTH: usize = 64;
/// The most kinds whose words may count for one entity or kind.
pub(crate) const MAX_KINDS: usize = 64;
/// How deep the children of kinds may nest.
pub(crate) const MAX_NESTED: usize = 8;
/// The most kinds that the children of kinds may make.
pub(crate) const MAX_CHILD_KINDS: usize = 10_000;
/// The most children that the entities of a scene may be given.
pub(crate) const MAX_MADE: usize = 1_000_000;
/// The most runs of reactions that may be under way or wait at once.
pub(crate) const MAX_RUNS: usize = 100_000;
/// The most actions that may be done in a second of play.
pub(crate) const MAX_ACTIONS: u64 = 200_000;
/// The most stretches of a way that may be travelled in a second of play.
pub(crate) const MAX_STRETCHES: u32 = 1000;
/// The most of them that may be travelled in no time.
pub(crate) const MAX_STRETCHES_AT_ONCE: u32 = 32;
/// The most inputs that may wait to be taken in.
pub(crate) const MAX_PLANNED: usize = 2_000_000;
