//! Being asked to stop, by Ctrl-C or by another program.

use std::io;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use signal_hook::consts::{SIGINT, SIGTERM};
use signal_hook::flag;

use crate::Ending;

/// Whether a command has been asked to stop. A command that listens stops soon and tells what there
/// is until then; asked twice, it ends at once.
#[derive(Clone, Debug, Default)]
pub struct Interrupt {
    stop: Arc<AtomicBool>,
    terminated: Arc<AtomicBool>,
}

impl Interrupt {
    /// Listens from now on.
    pub fn listen() -> Self {
        let interrupt = Self::default();
        // Where signals cannot be listened to, they end the program as ever.
        let _ = interrupt.register();
        interrupt
    }

    fn register(&self) -> io::Result<()> {
        for (signal, code) in [(SIGINT, 130), (SIGTERM, 143)] {
            // In this order: it does so only if it has been asked before.
            flag::register_conditional_shutdown(signal, code, self.stop.clone())?;
            flag::register(signal, self.stop.clone())?;
        }
        flag::register(SIGTERM, self.terminated.clone())?;
        Ok(())
    }

    /// Whether to stop.
    pub fn is_asked(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    /// What to look at to know whether to stop.
    pub fn flag(&self) -> &AtomicBool {
        &self.stop
    }

    /// The ending of a command: that it was cut short, if it was.
    pub fn ending(&self, otherwise: Ending) -> Ending {
        match (self.is_asked(), self.terminated.load(Ordering::Relaxed)) {
            (false, _) => otherwise,
            (true, false) => Ending::Interrupted,
            (true, true) => Ending::Terminated,
        }
    }
}
