//! How near is near enough for bodies: each tolerance with its reason.

/// Slower than this, in metres per second, is at rest: it takes more than a quarter of an hour for a
/// millimetre. Also the length, in metres, of a way that is as good as travelled.
pub(super) const AT_REST: f64 = 1e-6;

/// A contact that the body leaves no faster than this, in metres per second, still carries it. More than
/// [`AT_REST`], since velocities of what turns are not known as well.
pub(super) const PARTING: f64 = 1e-5;

/// A walker whose velocity is changed by more than this share of what it wants is slowed down.
pub(super) const SLOWED: f64 = 1e-3;

/// The least share of the wanted speed at which it is worth going along an obstacle. Less than a
/// twenty-fifth leads nowhere.
pub(super) const WORTHWHILE: f64 = 0.04;

/// How far bodies are kept from what they are moved towards, as a share of the way.
pub(super) const SHORT_OF: f64 = 1e-3;

/// How far a body is lifted before it is let down onto the ground, in metres, so that it does not begin
/// in it.
pub(super) const LIFT: f64 = 1e-3;

/// How far beyond touching a body is moved out of what it lies in, in metres.
pub(super) const CLEAR: f64 = 1e-4;
