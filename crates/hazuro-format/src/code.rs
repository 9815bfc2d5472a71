//! The codes of all findings, with what each of them is.

use std::fmt;

use hazuro::scene::Fault;

/// Makes the codes: by stage, each with its word and what it finds.
macro_rules! codes {
    ($($(#[$on:meta])* $stage:ident $finds:literal { $($code:ident $word:literal $about:literal;)* })*) => {
        /// When a finding can be met.
        ///
        /// ```
        /// use hazuro_format::{Code, Stage};
        /// assert_eq!(Code::NeverSetOff.stage(), Stage::Check);
        /// ```
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[non_exhaustive]
        pub enum Stage {
            $($(#[$on])* $stage,)*
        }

        impl Stage {
            /// All of them, in the order in which they can be met.
            pub const ALL: &[Self] = &[$(Self::$stage),*];

            /// What is found at this stage.
            pub fn about(self) -> &'static str {
                match self {
                    $(Self::$stage => $finds,)*
                }
            }
        }

        /// The code of a finding: a short name that stays the same from version to version. It compares
        /// with its word.
        ///
        /// ```
        /// use hazuro_format::Code;
        /// assert_eq!(Code::UnknownName, "unknown-name");
        /// assert_eq!(Code::find("unknown-name"), Some(Code::UnknownName));
        /// assert_eq!(Code::UnknownKey.about(), "a key that does not exist, with the nearest that does");
        /// ```
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[non_exhaustive]
        pub enum Code {
            $($(
                #[doc = concat!("`", $word, "`: ", $about, ".")]
                $code,
            )*)*
        }

        impl Code {
            /// All of them, by stage.
            pub const ALL: &[Self] = &[$($(Self::$code,)*)*];

            /// The word for it.
            pub const fn word(self) -> &'static str {
                match self {
                    $($(Self::$code => $word,)*)*
                }
            }

            /// What it finds.
            pub fn about(self) -> &'static str {
                match self {
                    $($(Self::$code => $about,)*)*
                }
            }

            /// When it can be met first.
            pub fn stage(self) -> Stage {
                match self {
                    $($(Self::$code)|* => Stage::$stage,)*
                }
            }
        }
    };
}

codes! {
    /// Before anything is read.
    Files "a file that cannot be read or written, or a command that cannot begin" {
        Directory "directory" "a folder where a file is wanted";
        NoLanguage "no-language"
            "the scene has conditions or scripts, and the program that reads it has no language for them";
        NoLine "no-line" "nothing can listen at the address, or nobody answers there";
        NoPlaytest "no-playtest" "there is no playtest where the command looks for one";
        NoRegularFile "no-regular-file" "a folder, a pipe or a device where a file is wanted";
        NoSuchFile "no-such-file" "a file that does not exist";
        NoTerminal "no-terminal" "the output is no terminal, or one that is too small";
        NotUtf8 "not-utf8" "a file that is not UTF-8 text";
        Outside "outside" "a file outside the folder that the command may read and write in";
        OverInput "over-input" "the output would overwrite what the command reads";
        TooLarge "too-large" "a file that is larger than is read";
        Undrawable "undrawable" "a picture that is too large to draw";
        UnknownEnding "unknown-ending" "the ending of a file name does not say what to draw";
        Unreadable "unreadable" "a file that cannot be read";
        Unwritable "unwritable" "a file that cannot be written";
    }
    /// While a file is read.
    Reading "what stands in a scene, a playtest or a script, and cannot be played" {
        BadAction "bad-action" "an action of a script that cannot be done";
        BadCall "bad-call" "a call in a script with arguments that do not fit";
        BadEasing "bad-easing" "an easing that CSS does not have, or numbers outside its range";
        BadExpression "bad-expression" "an expression that cannot be read, or has no meaning";
        BadFormula "bad-formula" "a formula that cannot give a number here";
        BadName "bad-name"
            "a name that cannot be one: empty, too long, or with a character that has another meaning";
        BadNumber "bad-number" "a number outside its range, or none";
        BadPlaceholder "bad-placeholder" "a placeholder in a text that is never filled";
        BadRotation "bad-rotation" "a rotation that is no quaternion of length 1";
        BadScript "bad-script" "a script that cannot be read";
        BadShape "bad-shape" "a shape without extent, or with corners that enclose nothing";
        BadSlot "bad-slot" "something in a slot that is for something else";
        BadValue "bad-value" "a word that is none of those that can stand here";
        CannotJump "cannot-jump" "a jump of a body that cannot jump";
        CannotWalk "cannot-walk" "a walk of a body that cannot walk";
        ChildAndSlot "child-and-slot" "a name that is both a child's and a slot's";
        DescribedOtherwise "described-otherwise"
            "an entity that comes back into a play and is described in another way than before";
        DoesNothing "does-nothing" "a reaction without an action";
        DuplicateKey "duplicate-key" "a key that stands twice in a table";
        DuplicateName "duplicate-name" "a name that is given twice";
        Empty "empty" "a file with nothing in it";
        ForeignId "foreign-id" "the id of something in another scene";
        GivesNothing "gives-nothing" "a gift or pickup with nothing in it";
        KindCircle "kind-circle" "kinds that build on each other in a circle";
        LooksForNothing "looks-for-nothing" "a probe or seeker whose `of` is empty";
        MissingKey "missing-key" "a table without a key that it needs";
        MixedSequences "mixed-sequences" "actions beside lists of actions in one `do`";
        NeverDetected "never-detected" "an event that no detector has";
        NoArea "no-area" "a spawner or destination whose entity has no zone";
        NoDetector "no-detector" "an event of a detector that the entity does not have";
        NoEdge "no-edge" "the first or last of an event that has neither";
        NoLength "no-length" "a probe or a way of length 0";
        NoPartner "no-partner"
            "a key that only goes with another that is not there, or does not go with one that is";
        NoParts "no-parts" "a body of no parts";
        NoPlayer "no-player" "keys, pointers or prompts for what is no player";
        NoSlot "no-slot" "a slot that the kind does not have";
        NoStat "no-stat" "an event of a stat on what is no stat";
        NoTeam "no-team" "an ownership by teams that names none";
        NobodyMeant "nobody-meant" "`who` or `on` where the event has no such part";
        NotInPlay "not-in-play"
            "something that is not in the play at that time: removed, or still in stock";
        Unconvertible "unconvertible" "a kind to convert to that gives what no conversion changes";
        NotTaken "not-taken" "a kind that is `for` something other than tags, names or all";
        NothingThere "nothing-there" "a detector that needs a shape, on an entity without one";
        Nowhere "nowhere" "a destination or a way without places";
        OneAction "one-action" "none or several actions in one table";
        OneChange "one-change" "none or several of `add` and `set`";
        OneDrag "one-drag" "none or several ways to drag something";
        OneEvent "one-event" "none or several events in one trigger";
        OneExpectation "one-expectation" "none or several expectations in one table";
        OneShape "one-shape" "none or several shapes where one is wanted";
        OneSlot "one-slot" "a slot that says neither what is in it nor what it is for, or both";
        OnlyOne "only-one" "a word for several where one is wanted";
        OtherScene "other-scene" "the state of a play of another scene";
        ParentCircle "parent-circle" "entities that are each other's parents in a circle";
        ParentOfChild "parent-of-child" "a child with a `parent` of its own";
        SmallStock "small-stock" "a spawner that keeps more than the stock of its kind";
        StrayKey "stray-key" "a key below the header of another table than the one it is for";
        Syntax "syntax" "a file that is no TOML or JSON";
        TooDeep "too-deep" "tables, parents or calls that are nested too deep";
        TooManyChildren "too-many-children" "more children than there can be";
        TooManyInputs "too-many-inputs" "more inputs waiting than there can be";
        TooManyKinds "too-many-kinds" "more kinds of one entity than there can be";
        TooManyLayers "too-many-layers" "more than 64 layers";
        TwoCounts "two-counts" "two keys that both say how often";
        TwoLenses "two-lenses" "a camera with two lenses";
        TwoPrompts "two-prompts" "`prompt` and `interact` on the same thing";
        TwoRotations "two-rotations" "`turn` and `rotation` on the same thing";
        TwoSpans "two-spans" "`between` beside `after` or `by`";
        Unable "unable" "an action on what cannot do it";
        Uneven "uneven" "bodies and places of different number";
        UnknownKey "unknown-key" "a key that does not exist, with the nearest that does";
        UnknownName "unknown-name"
            "a name, tag, kind, layer, stat, effect or function that does not exist, with the nearest \
             that does";
        Waits "waits" "a wait where only a reaction can wait";
        WrongType "wrong-type" "a value of another type than the one that is wanted";
    }
    /// In `check`, or before a playtest is run.
    Check "what can be played and probably does not do what was meant" {
        AdmitsToNothing "admits-to-nothing"
            "`admit` on an entity whose detector is on its child or parent, or nowhere";
        AlwaysCompetes "always-competes" "a prompt that always loses to another for the same key";
        AnothersValue "anothers-value"
            "a condition on the scene's count or flag where only an entity's own is ever changed, or the \
             other way round";
        BoundsElsewhere "bounds-elsewhere" "a spawner that lies outside of its bounds";
        EachTick "each-tick" "a reaction that acts at each tick";
        EmptySlot "empty-slot" "a slot of its kind that an entity does not fill";
        EndsAtFeet "ends-at-feet"
            "a ray straight down that ends exactly at the feet, so that it is chance whether it reaches \
             the ground";
        EndsElsewhere "ends-elsewhere" "a reaction that another detector of the same type ends (a hint)";
        EndsOthers "ends-others"
            "a reaction of several detectors that acts on each one's own things and ends, skips or puts \
             off what it does for another (a hint)";
        EndsWaiting "ends-waiting"
            "a playtest that ends while a reaction that its cue is certain to set off still waits (a hint)";
        ForEveryone "for-everyone" "a reaction that acts on all of a kind or tag for each subject";
        HeightOfCentre "height-of-centre" "a height that is not that of the feet";
        HidesOnly "hides-only" "what is hidden and still blocks or detects";
        HitsItself "hits-itself" "a ray that hits the body it belongs to";
        LacksSlot "lacks-slot" "a slot that a reaction asks for and its detector does not have";
        MissingLanguage "missing-language" "a text that is not there in a language that others have";
        MissingText "missing-text" "a text that is not there";
        NeverAnyway "never-anyway"
            "a playtest that expects that something `never` happens to what has no such detector";
        NeverGiven "never-given" "an effect, tag or attachment that is ended and never begun";
        NeverHappens "never-happens"
            "a reaction that waits for what its detector never sends: `inside` without an interval, \
             `accept` of an `interact`, `hold` without a hold time";
        NeverLeftHome "never-left-home" "a closing move without an opening one";
        NeverMet "never-met" "a prompt that needs what nothing counts";
        NeverMoves "never-moves" "a route whose stops are all at one place, with no `wait` between";
        NeverOver "never-over" "a cooldown of hours";
        NeverOwned "never-owned" "an `ownership` that no body ever comes to have";
        NeverSetOff "never-set-off"
            "a detector that nothing in the scene can set off: it admits no subject, layers never meet, \
             or only its carrier can";
        NeverWritten "never-written"
            "a condition on a count or flag that nothing writes, while one of nearly that name is \
             written and nothing asks for it";
        NoCamera "no-camera" "a pointer that no player with a camera can use";
        NoMargin "no-margin" "a footing without a margin, which flickers";
        NoReason "no-reason" "an allowance without a reason";
        NobodyYet "nobody-yet"
            "a reaction that waits for a kind, tag or layer of which nothing in the scene has such a \
             detector";
        NothingToAllow "nothing-to-allow" "an allowance of what is not found there";
        OffForGood "off-for-good" "what is off, or has an ancestor that is off, and nothing switches on";
        OncePerPart "once-per-part" "a reaction that acts once for each part of a body";
        OutOfReach "out-of-reach" "a prompt that no player can get near enough to";
        PassedOver "passed-over" "a count that is compared with a number its steps pass over";
        ReplacedForGood "replaced-for-good" "a reaction that another replaces at all that it waits for";
        RestoresANumber "restores-a-number"
            "a stat set back to a fixed number where an effect would give back what was there";
        SameSpot "same-spot" "the same zone twice on one spot (a hint)";
        SetsItselfOff "sets-itself-off" "a detector that moves the very thing that sets it off";
        SmallerThanView "smaller-than-view" "something to catch clicks that does not cover the view";
        StartsInside "starts-inside" "a ray that begins inside a solid";
        TakesNobody "takes-nobody" "a kind that is `for` tags or names that nothing has";
        TeleportsInPlace "teleports-in-place" "a destination in the zone of its own teleport";
        TeleportsIntoSolid "teleports-into-solid" "a destination in a solid";
        TeleportsIntoZone "teleports-into-zone"
            "a destination in the zone of another teleport, unless the two lead to each other";
        TestedTooEarly "tested-too-early" "a condition on a count that is raised only afterwards";
        TooLate "too-late" "a playtest that does or expects something after its end";
        TwiceTheSame "twice-the-same" "two reactions that do the same at the same event";
        TwoOrders "two-orders" "a playtest that sends a body to two places at one moment";
        UnheardInside "unheard-inside" "`inside_every` where no reaction waits for `inside` (a hint)";
        UnreadStat "unread-stat"
            "a stat of a walker that nothing asks for and that looks as if legs went by it: \
             `jump_height` for `jump` (a hint)";
        UnsentCue "unsent-cue" "a cue that nothing sends, while one of nearly that name goes unheard";
        UnusedSlot "unused-slot" "a slot that nothing asks for";
        UsedUp "used-up" "a limit of 0";
    }
    /// While a scene is played.
    Play "what goes wrong while a scene is played" {
        Circle "circle" "reactions that set each other off in a circle at one moment";
        ConditionFailed "condition-failed" "a condition that gives no answer, as a division of 0 by 0";
        EndlessWay "endless-way" "a route that would go on for ever at one moment";
        FormulaFailed "formula-failed" "a formula that gives no number";
        FunctionFailed "function-failed" "a function that ends with an error";
        FunctionPanicked "function-panicked" "a function of the host that panics";
        InPlay "in-play" "something brought out that is in the play already";
        NoPoint "no-point" "an action at the point of an event that has none";
        ScoreFailed "score-failed" "a score of a seeker that gives no number";
        TooManyActions "too-many-actions" "a reaction that does more at one moment than it may";
        TooManyRuns "too-many-runs" "a reaction that runs more times at once than it may";
    }
    /// In `scout`.
    Scout "what `scout` finds odd" {
        Flickers "flickers" "it fires more than once in one visit";
        GoesWrong "goes-wrong" "scripts that fail, and actions that cannot be done";
        ManyAVisit "many-a-visit" "its reaction acts more than once in one visit";
        NeverActs "never-acts"
            "a reaction that is set off and whose condition never holds, whatever comes before or is there";
        NeverFires "never-fires" "some subject is admitted, and no visit sets it off";
        NotOnFoot "not-on-foot" "a player gets there only if driven";
        OneSided "one-sided" "it fires from some sides only";
        OnlyOnce "only-once" "it works the first time only, though no limit says so";
        StaysInside "stays-inside" "a subject that has left is still counted inside";
    }
}

impl Code {
    /// The code of this word, if there is one.
    pub fn find(word: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|code| code.word() == word)
    }
}

impl fmt::Display for Code {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.word())
    }
}

impl serde::Serialize for Code {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.word())
    }
}

impl PartialEq<&str> for Code {
    fn eq(&self, word: &&str) -> bool {
        self.word() == *word
    }
}

impl PartialEq<str> for Code {
    fn eq(&self, word: &str) -> bool {
        self.word() == word
    }
}

impl From<&Fault> for Code {
    fn from(fault: &Fault) -> Self {
        Self::find(fault.code()).expect("each code of a fault is listed")
    }
}

// A fault whose code is not listed here does not compile.
const _: () = {
    let mut index = 0;
    while index < Fault::CODES.len() {
        assert!(is_listed(Fault::CODES[index].as_bytes()), "a code of a fault is not listed");
        index += 1;
    }
};

const fn is_listed(word: &[u8]) -> bool {
    let mut index = 0;
    while index < Code::ALL.len() {
        if is_same(word, Code::ALL[index].word().as_bytes()) {
            return true;
        }
        index += 1;
    }
    false
}

const fn is_same(one: &[u8], other: &[u8]) -> bool {
    let mut index = 0;
    while index < one.len() && index < other.len() && one[index] == other[index] {
        index += 1;
    }
    index == one.len() && index == other.len()
}
