//! The structure of an entry of a tape: what can be done, and what goes with each.

use schemars::JsonSchema;
use serde::Deserialize;

/// A place in the world, or the entity that is there.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(untagged, expecting = "a name or [x, y, z]")]
pub(crate) enum PlaceKeys {
    /// Where this entity is.
    Name(String),
    /// There, in metres.
    Place([f64; 3]),
}

/// A point of the screen, or the entity that is seen there.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(untagged, expecting = "a name or [x, y] in pixels")]
pub(crate) enum SpotKeys {
    /// Where the middle of this entity is seen.
    Name(String),
    /// There, in pixels from the top left.
    Pixel([f64; 2]),
}

choice! {
    /// One thing done: `at` a time, by somebody (`who`), one of the deeds.
    keys TapeKeys {
        /// When, in seconds.
        at: f64,
        /// Who does it. A cue without it has no subject.
        who: Option<String>,
    }

    /// What can be done.
    choice Deed {
        /// Walk there at walking speed, around what is in the way.
        WalkTo walk_to: PlaceKeys [];
        /// Walk straight there at walking speed, as a player who holds down a key: along what is in the way as
        /// far as that leads on, but not around it.
        WalkStraight walk_straight: PlaceKeys [];
        /// Walk to one of these after another.
        WalkAlong walk_along: Vec<PlaceKeys> [];
        /// Walk after this entity, to within `near` metres, until another order.
        Follow follow: String [near];
        /// Stop walking: `halt = true`.
        Halt halt: bool [];
        /// Jump: `jump = true`.
        Jump jump: bool [];
        /// Take this thing in one's hands, if it is within its `reach`.
        Grab grab: String [from_afar];
        /// Let go of what one holds: `drop = true`.
        Drop drop: bool [];
        /// Throw what one holds, so fast along one's own axes, in metres per second; one faces -Z.
        Throw throw: [f64; 3] [];
        /// Be given this thing, as by an action, so that it belongs to `who`.
        Own own: String [];
        /// Let this thing belong to nobody; not needed: `who`.
        Disown disown: String [];
        /// Leave the play: `leave = true`.
        Leave leave: bool [];
        /// Come into the play again, where one is described: `join = true`.
        Join join: bool [];
        /// Go there straight and at constant speed; `over` is the time in seconds.
        DriveTo drive_to: PlaceKeys [over];
        /// Be there at once.
        PlaceAt place_at: PlaceKeys [];
        /// Turn that way at once.
        Face face: PlaceKeys [];
        /// Make a detector fire by hand with `who` as its subject, without going there.
        Poke poke: String [event];
        /// Switch this entity on; not needed: `who`.
        Enable enable: String [];
        /// Switch this entity off; not needed: `who`.
        Disable disable: String [];
        /// Press this key, as W3C UI Events name it.
        Press press: String [];
        /// Let go of this key.
        Release release: String [];
        /// Hold this key for `over` seconds.
        Hold hold: String [over];
        /// Use this entity, whatever its key, as long as it takes.
        Interact interact: String [];
        /// Point there: at an entity or a point of the screen.
        Pointer pointer: SpotKeys [];
        /// Press the button there.
        PointerDown pointer_down: SpotKeys [];
        /// Let go of the button there.
        PointerUp pointer_up: SpotKeys [];
        /// Press and let go of the button there.
        Click click: SpotKeys [];
        /// Send this cue.
        Cue cue: String [];
    }

    partners {
        /// With `follow`: how near to come, from origin to origin, in metres. The default is 1.
        near: f64;
        /// With `grab`: from wherever it is.
        from_afar: bool;
        /// With `drive_to` and `hold`: how many seconds it takes.
        over: f64;
        /// With `poke`: which of its events. The default is the one with which it begins to
        /// detect.
        event: String;
    }
}
