//! What a host allows.

/// What a host allows its clients. Each number is a default that can be changed.
///
/// ```
/// use hazuro_link::Rules;
/// let rules = Rules { token: Some("tide".into()), ..Rules::default() };
/// assert_eq!(rules.most_lines, 64);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Rules {
    /// The word that a client must know to join, if any.
    pub token: Option<String>,
    /// How many lines may be open at once. The default is 64.
    pub most_lines: usize,
    /// For how many seconds a player who was cut off keeps the seat. The default is 30.
    pub hold: f64,
    /// How many deeds a second one client may do in the long run, and how many at once. The default is 60.
    pub deeds: u32,
    /// How many seconds too late a deed may come; it is done at once then. The default is 0.5.
    pub late: f64,
    /// How many seconds ahead of the host a deed may be meant. The default is 1.
    pub early: f64,
    /// After how many seconds without a message a line is closed. The default is 10.
    pub silence: f64,
    /// How many faults in ten seconds, as half messages, too many deeds or deeds out of time, close a line.
    /// The default is 20.
    pub faults: u32,
    /// For how many seconds what became different is kept, to be told again. Who knows less is told the
    /// whole state. The default is 4.
    pub memory: f64,
    /// How many times a second who is told a view is told it. The default is 20.
    pub views: f64,
    /// After how many seconds a fingerprint is sent, by which a client sees that it knows the very state.
    /// The default is 1.
    pub proof: f64,
}

impl Default for Rules {
    fn default() -> Self {
        Self {
            token: None,
            most_lines: 64,
            hold: 30.0,
            deeds: 60,
            late: 0.5,
            early: 1.0,
            silence: 10.0,
            faults: 20,
            memory: 4.0,
            views: 20.0,
            proof: 1.0,
        }
    }
}

/// The longest message that a client may send, in bytes.
pub(crate) const MAX_TO_HOST: usize = 16 * 1024;
/// The most deeds in one message.
pub(crate) const MAX_DEEDS: usize = 128;
/// The longest name, token or key in a message, in bytes.
pub(crate) const MAX_WORD: usize = 256;
