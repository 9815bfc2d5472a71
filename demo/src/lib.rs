//! The tidal mill, Hazuro's demo, as texts: what the command plays without any file.
//!
//! ```
//! let gate = hazuro_demo::GATE;
//! assert_eq!(gate.name, "demo/tidemill/gate.playtest.toml");
//! assert!(gate.text.contains("tidemill.scene.toml"));
//! ```

/// A file of the demo.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct File {
    /// Its path in the repository.
    pub name: &'static str,
    /// What stands in it.
    pub text: &'static str,
}

macro_rules! files {
    ($($(#[$about:meta])* $name:ident $file:literal;)*) => {
        $($(#[$about])*
        pub const $name: File = File {
            name: concat!("demo/tidemill/", $file),
            text: include_str!(concat!("../tidemill/", $file)),
        };)*
    };
}

files! {
    /// The mill with its yard and granary.
    SCENE "tidemill.scene.toml";
    /// The functions that its reactions call.
    SCRIPT "mill.rhai";
    /// The gate opens for players.
    GATE "gate.playtest.toml";
    /// Clicks, drags, prompts, a watcher and a target.
    YARD "yard.playtest.toml";
    /// Pickups, stats and effects.
    MILL "mill.playtest.toml";
    /// A hoist, carrying, throwing, a ladder and jumps.
    GRANARY "granary.playtest.toml";
    /// A quay for four players.
    QUAY "quay.scene.toml";
    /// Four players on the quay.
    QUAY_PLAYED "quay.playtest.toml";
    /// The quay again, each player at a desk of their own, over lines that are not good.
    FAR "far.playtest.toml";
}
