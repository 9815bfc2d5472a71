//! What must and must not happen: how an expectation is read, what it looks at, and whether it is met. One
//! sort a file.

mod event;
mod in_order;
mod judge;
mod kept;
mod offered;
mod often;
mod pattern;
mod place;
mod read;
mod said;
mod told;
mod value;
mod visible;
mod watcher;

use std::fmt::Debug;
use std::ops::Range;

use hazuro::scene::Field;
use hazuro::{EntityId, Time};
use hazuro_format::{Code, Literal};

use crate::tape::{PlaceKeys, Reader};
pub(crate) use event::Happens;
use in_order::InOrder;
pub(crate) use judge::{Judge, Judged};
use kept::Kept;
use offered::Offered;
use place::Stands;
use read::Reading;
use said::Said;
pub(crate) use told::Told;
use value::Gives;
use visible::Visible;
pub(crate) use watcher::Watcher;

choice! {
    /// What must or must not happen: an `event`, events `in_order`, a text `said`, what somebody was `kept`
    /// from taking, the `value` of an expression, the `place` of somebody, what is `offered`, or what is
    /// `visible`.
    keys ExpectKeys {}

    /// What an expectation is about.
    choice Sort {
        /// The word of the event.
        Happens event: String [on who cause need of after by between times at_least at_most never seen_by];
        /// Events that must happen one after another; others may come between.
        InOrder in_order: Vec<ExpectKeys> [seen_by];
        /// The key of a text that must be shown: to `who`, alone or with everybody, or to anybody.
        Said said: String [who after by between times at_least at_most never];
        /// What `who` must want to take and not get.
        Kept kept: String [who why after by between times at_least at_most never];
        /// An expression over `count` and `time`.
        Gives value: String [who is within at seen_by];
        /// Where `who` must be.
        Stands place: PlaceKeys [who within at seen_by];
        /// A prompt that must be offered to `who`.
        Offered offered: String [who is at seen_by];
        /// An entity that must be shown, itself and its ancestors.
        Visible visible: String [is at seen_by];
    }

    partners {
        /// With `place`: the greatest distance from there, in metres. The default is 0.01. With `value`: by how
        /// much a number may be off. The default is 0.000001.
        within: f64;
        /// Its detector, or the name of a cue.
        on: String;
        /// Its subject. With `value`: whom `who` means in the expression.
        who: String;
        /// The word of its cause.
        cause: String;
        /// Of `refused`: the need that was lacking.
        need: String;
        /// Of `stat`, `empty` and `full`: the stat.
        of: String;
        /// With `kept`: words that the reason must have, as in `belongs to ada`.
        why: String;
        /// A player of `players`, who must see it: events when they are told of them, the rest as they know it then.
        seen_by: String;
        /// Not before this many seconds.
        after: f64;
        /// At this many seconds at the latest.
        by: f64;
        /// Not before the one and not after the other, in seconds.
        between: [f64; 2];
        /// The exact number of times. The default is at least once.
        times: usize;
        /// So often or more.
        at_least: usize;
        /// So often or less.
        at_most: usize;
        /// Not once.
        never: bool;
        /// With `value`: what it is. With `offered` and `visible`: whether. The default is true.
        is: Literal;
        /// With all that is so at a moment: when, in seconds. The default is at the end.
        at: f64;
    }
}

/// What a sort of expectation is and does.
pub(crate) trait Expect: Sized {
    /// What is seen at its moment.
    type Seen: Clone + Debug;

    /// Reads one.
    fn read(reading: &mut Reading<'_, '_>) -> Option<Self>;

    /// From when on it may be met, for what may not happen earlier.
    fn earliest(&self) -> Option<Time> {
        None
    }

    /// When it is looked at, for what is so at one moment.
    fn moment(&self) -> Option<Time> {
        None
    }

    /// What is seen of it now; nothing if it has no moment.
    fn look(&self, watcher: &Watcher<'_>) -> Option<Self::Seen>;

    /// Whether it was met. `seen` is there if it could be seen at its moment.
    fn judge(&self, judge: &Judge<'_>, seen: Option<&Self::Seen>) -> Judged;
}

macro_rules! sorts {
    ($($sort:ident)*) => {
        /// What must or must not happen.
        #[derive(Debug)]
        pub(crate) enum What {
            $($sort($sort),)*
        }

        /// What was seen of an expectation at its moment.
        #[derive(Clone, Debug)]
        pub(crate) enum Seen {
            $($sort(<$sort as Expect>::Seen),)*
        }

        impl What {
            fn read(sort: Sort, reading: &mut Reading<'_, '_>) -> Option<Self> {
                match sort {
                    $(Sort::$sort => $sort::read(reading).map(Self::$sort),)*
                }
            }

            /// From when on it may be met, for what may not happen earlier.
            pub fn earliest(&self) -> Option<Time> {
                match self {
                    $(Self::$sort(it) => it.earliest(),)*
                }
            }

            /// When it is looked at, for what is so at one moment.
            pub fn moment(&self) -> Option<Time> {
                match self {
                    $(Self::$sort(it) => it.moment(),)*
                }
            }

            /// What is seen of it now.
            pub fn look(&self, watcher: &Watcher<'_>) -> Option<Seen> {
                match self {
                    $(Self::$sort(it) => it.look(watcher).map(Seen::$sort),)*
                }
            }

            /// Whether it was met.
            pub fn judge(&self, judge: &Judge<'_>, seen: Option<&Seen>) -> Judged {
                match self {
                    $(Self::$sort(it) => {
                        let seen = match seen {
                            Some(Seen::$sort(seen)) => Some(seen),
                            _ => None,
                        };
                        it.judge(judge, seen)
                    })*
                }
            }
        }
    };
}

sorts! { Happens InOrder Said Kept Gives Stands Offered Visible }

/// One thing that must or must not happen.
#[derive(Debug)]
pub(crate) struct Expectation {
    /// The bytes of its text.
    pub span: Range<usize>,
    pub what: What,
    /// The player who plays from elsewhere and must see it; none if it must be so in the play itself.
    pub seen_by: Option<EntityId>,
}

impl Expectation {
    /// Reads one, of a play that ends at `end`.
    pub fn read(
        reader: &mut Reader<'_>,
        keys: &ExpectKeys,
        field: &Field,
        end: Time,
    ) -> Option<Self> {
        let &[sort] = keys.chosen().as_slice() else {
            let all: Vec<&str> = Sort::ALL.iter().map(|sort| sort.word()).collect();
            let message = format!("an expectation is about one of: {}", all.join(", "));
            let help = "as in { event = \"enter\", on = \"pad\", by = 3.0 } \
                        or { value = \"count.tokens\", is = 4, at = 9.0 }";
            reader.error(field, Code::OneExpectation, &message, help);
            return None;
        };
        let mut reading = Reading { reader, keys, field, end };
        reading.strays(sort);
        let what = What::read(sort, &mut reading)?;
        let seen_by = match &keys.seen_by {
            Some(name) => Some(reader.player(name, &field.key("seen_by"))?),
            None => None,
        };
        Some(Self { span: reader.span(field), what, seen_by })
    }

    /// Whether it was met. `seen` is what was seen at its moment.
    pub fn judge(&self, judge: &Judge<'_>, seen: Option<&Seen>) -> Judged {
        let Some(player) = self.seen_by else { return self.what.judge(judge, seen) };
        let judged = self.what.judge(&judge.of(player), seen);
        let name = judge.scene().name(player);
        Judged { expected: format!("{}, seen by {name}", judged.expected), ..judged }
    }
}
