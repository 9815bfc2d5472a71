//! Play in the terminal.

mod acting;
mod canvas;
mod console;
mod keys;
mod map;
mod overview;
mod panels;
mod saved;
mod screen;
mod text;
mod timeline;
mod why;
mod words;

pub use console::Console;

use std::io::{self, IsTerminal, Stdout};
use std::panic;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::mpsc::{self, Receiver, RecvTimeoutError};
use std::thread;
use std::time::{Duration, Instant};

use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::crossterm::cursor::Hide;
use ratatui::crossterm::event::{self, DisableMouseCapture, EnableMouseCapture, Event};
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{
    Clear, ClearType, EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode,
};
use signal_hook::consts::{SIGINT, SIGTERM};

/// How long one picture is shown.
const FRAME: Duration = Duration::from_millis(33);
/// How often it is looked whether files have been saved.
const LOOK: Duration = Duration::from_millis(250);

/// How a console was closed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Closed {
    /// By whoever plays.
    ByPlayer,
    /// By a signal from outside, of this number.
    BySignal(i32),
}

/// Shows a console in the terminal until it is closed, and puts the terminal back as it was,
/// whatever happens: also while the program is suspended.
///
/// # Errors
/// If standard output is no terminal, or it can no longer be written to or read from.
pub fn show(console: &mut Console) -> io::Result<Closed> {
    if !io::stdout().is_terminal() {
        return Err(io::Error::other("standard output is no terminal"));
    }
    let signals = Signals::listen()?;
    on_screen(console, &signals)
}

/// The signals that a program in a terminal gets.
struct Signals {
    /// The number of one that asks it to end; 0 if none has.
    end: Arc<AtomicUsize>,
    /// Whether it is to be suspended.
    suspend: Arc<AtomicBool>,
    ids: Vec<signal_hook::SigId>,
}

impl Signals {
    fn listen() -> io::Result<Self> {
        let (end, suspend) = (Arc::<AtomicUsize>::default(), Arc::<AtomicBool>::default());
        let mut signals = Self { end, suspend, ids: Vec::new() };
        let mut ending = vec![SIGINT, SIGTERM];
        #[cfg(unix)]
        ending.extend([signal_hook::consts::SIGHUP, signal_hook::consts::SIGQUIT]);
        for signal in ending {
            let (end, number) = (signals.end.clone(), signal as usize);
            signals.ids.push(signal_hook::flag::register_usize(signal, end, number)?);
        }
        #[cfg(unix)]
        {
            let (stop, flag) = (signal_hook::consts::SIGTSTP, signals.suspend.clone());
            signals.ids.push(signal_hook::flag::register(stop, flag)?);
        }
        Ok(signals)
    }

    fn ending(&self) -> Option<Closed> {
        let signal = self.end.load(Ordering::Relaxed);
        (signal != 0).then_some(Closed::BySignal(signal as i32))
    }
}

impl Drop for Signals {
    fn drop(&mut self) {
        for id in self.ids.drain(..) {
            signal_hook::low_level::unregister(id);
        }
    }
}

fn on_screen(console: &mut Console, signals: &Signals) -> io::Result<Closed> {
    let mut screen = Screen::open()?;
    let input = Input::listen();
    let mut before = Instant::now();
    let mut looked = before;
    while !console.is_over() {
        if let Some(closed) = signals.ending() {
            return Ok(closed);
        }
        if signals.suspend.swap(false, Ordering::Relaxed) || console.takes_suspension() {
            screen.suspend()?;
            // No time has passed for the play.
            before = Instant::now();
        }
        screen.terminal.draw(|frame| console.draw(frame.buffer_mut()))?;
        for event in input.until(before + FRAME)? {
            console.take(&event);
            if console.is_over() {
                break;
            }
        }
        let now = Instant::now();
        console.pass((now - before).as_secs_f64());
        before = now;
        if now - looked > LOOK {
            looked = now;
            console.read_again();
            // Even if nothing is new: a terminal that is gone is found out by writing to it.
            execute!(io::stdout(), Hide)?;
        }
    }
    Ok(Closed::ByPlayer)
}

/// Keys and mouse, read by a thread of its own: where a terminal has gone away, reading from it may
/// never return.
struct Input {
    events: Receiver<io::Result<Event>>,
    over: Arc<AtomicBool>,
}

impl Input {
    fn listen() -> Self {
        let (sender, events) = mpsc::channel();
        let over = Arc::new(AtomicBool::new(false));
        let is_over = over.clone();
        thread::spawn(move || {
            while !is_over.load(Ordering::Relaxed) {
                let event = match event::poll(LOOK) {
                    Ok(false) => continue,
                    Ok(true) => event::read(),
                    Err(error) => Err(error),
                };
                let is_last = event.is_err();
                if sender.send(event).is_err() || is_last {
                    break;
                }
            }
        });
        Self { events, over }
    }

    /// What comes until then. Of far more than anybody can type only the last is taken, so that who
    /// wants to quit need not wait for the rest.
    fn until(&self, until: Instant) -> io::Result<Vec<Event>> {
        const MOST: usize = 256;
        const KEPT: usize = 16;
        let mut events = Vec::new();
        loop {
            let left = until.saturating_duration_since(Instant::now());
            match self.events.recv_timeout(left) {
                Ok(event) => events.push(event?),
                Err(RecvTimeoutError::Timeout) => break,
                Err(RecvTimeoutError::Disconnected) => {
                    return Err(io::Error::other("the input has ended"));
                }
            }
            if left.is_zero() && events.len() > MOST {
                // More came than was read within a frame.
                events.drain(..events.len() - KEPT);
                if Instant::now() > until + FRAME {
                    break;
                }
            }
        }
        if events.len() > MOST {
            events.drain(..events.len() - KEPT);
        }
        Ok(events)
    }
}

impl Drop for Input {
    fn drop(&mut self) {
        self.over.store(true, Ordering::Relaxed);
    }
}

/// The terminal while it is drawn upon. Dropping it puts the terminal back.
struct Screen {
    terminal: Terminal<CrosstermBackend<Stdout>>,
}

impl Screen {
    fn open() -> io::Result<Self> {
        // Before anything is changed, so that a panic in between finds it in place.
        let hook = panic::take_hook();
        panic::set_hook(Box::new(move |info| {
            restore();
            hook(info);
        }));
        let opened = enter().and_then(|()| Terminal::new(CrosstermBackend::new(io::stdout())));
        match opened {
            Ok(terminal) => Ok(Self { terminal }),
            Err(error) => {
                restore();
                Err(error)
            }
        }
    }
}

impl Screen {
    /// Gives the terminal back, stops until somebody lets the program go on, and takes it again.
    fn suspend(&mut self) -> io::Result<()> {
        let _ = self.terminal.show_cursor();
        restore();
        #[cfg(unix)]
        signal_hook::low_level::emulate_default_handler(signal_hook::consts::SIGTSTP)?;
        enter()?;
        execute!(io::stdout(), Clear(ClearType::All))?;
        // One that knows of nothing on the screen, so that all is drawn anew.
        self.terminal = Terminal::new(CrosstermBackend::new(io::stdout()))?;
        Ok(())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        let _ = self.terminal.show_cursor();
        restore();
    }
}

/// Takes the whole terminal.
fn enter() -> io::Result<()> {
    enable_raw_mode()?;
    execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture)
}

/// Puts the terminal back as it was. What fails here could not be told to anybody.
fn restore() {
    let _ = execute!(io::stdout(), DisableMouseCapture, LeaveAlternateScreen);
    let _ = disable_raw_mode();
}
