//! Play in the terminal.

mod acting;
mod canvas;
mod console;
mod keys;
mod map;
mod panels;
mod saved;
mod screen;
mod timeline;
mod why;
mod words;

pub use console::Console;

use std::io::{self, IsTerminal, Stdout};
use std::panic;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{self, Receiver, RecvTimeoutError};
use std::thread;
use std::time::{Duration, Instant};

use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::crossterm::cursor::Hide;
use ratatui::crossterm::event::{self, DisableMouseCapture, EnableMouseCapture, Event};
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{
    EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode,
};
use signal_hook::consts::{SIGINT, SIGTERM};

/// How long one picture is shown.
const FRAME: Duration = Duration::from_millis(33);
/// How often it is looked whether files have been saved.
const LOOK: Duration = Duration::from_millis(250);

/// Shows a console in the terminal until it is closed, and puts the terminal back as it was,
/// whatever happens.
///
/// # Errors
/// If standard output is no terminal, or it can no longer be written to or read from.
pub fn show(console: &mut Console) -> io::Result<()> {
    if !io::stdout().is_terminal() {
        return Err(io::Error::other("standard output is no terminal"));
    }
    let asked_to_end = Arc::new(AtomicBool::new(false));
    let signals = ending_signals(&asked_to_end)?;
    let shown = on_screen(console, &asked_to_end);
    for signal in signals {
        signal_hook::low_level::unregister(signal);
    }
    shown
}

/// Notes when somebody outside asks the program to end.
fn ending_signals(asked: &Arc<AtomicBool>) -> io::Result<Vec<signal_hook::SigId>> {
    let mut signals = vec![SIGINT, SIGTERM];
    #[cfg(unix)]
    signals.push(signal_hook::consts::SIGHUP);
    signals.into_iter().map(|signal| signal_hook::flag::register(signal, asked.clone())).collect()
}

fn on_screen(console: &mut Console, asked_to_end: &AtomicBool) -> io::Result<()> {
    let mut screen = Screen::open()?;
    let input = Input::listen();
    let mut before = Instant::now();
    let mut looked = before;
    while !console.is_over() && !asked_to_end.load(Ordering::Relaxed) {
        screen.terminal.draw(|frame| console.draw(frame.buffer_mut()))?;
        let until = before + FRAME;
        while let Some(event) = input.next(until)? {
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
    Ok(())
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

    /// The next event, if there is one until then.
    fn next(&self, until: Instant) -> io::Result<Option<Event>> {
        match self.events.recv_timeout(until.saturating_duration_since(Instant::now())) {
            Ok(event) => event.map(Some),
            Err(RecvTimeoutError::Timeout) => Ok(None),
            Err(RecvTimeoutError::Disconnected) => Err(io::Error::other("the input has ended")),
        }
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
        enable_raw_mode()?;
        let opened = execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture)
            .and_then(|()| Terminal::new(CrosstermBackend::new(io::stdout())));
        match opened {
            Ok(terminal) => Ok(Self { terminal }),
            Err(error) => {
                restore();
                Err(error)
            }
        }
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        let _ = self.terminal.show_cursor();
        restore();
    }
}

/// Puts the terminal back as it was. What fails here could not be told to anybody.
fn restore() {
    let _ = execute!(io::stdout(), DisableMouseCapture, LeaveAlternateScreen);
    let _ = disable_raw_mode();
}
