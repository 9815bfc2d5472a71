//! What is typed at a desk, a line each.

use std::collections::VecDeque;
use std::io::{BufRead, stdin};
use std::sync::mpsc::{self, Receiver, TryRecvError};
use std::thread;

use hazuro_link::{Deed, To};

use crate::output::complain;

/// What can be typed.
const COMMANDS: &str = "walk NAME or X Z, straight NAME or X Z, face NAME or X Z, follow NAME, halt, \
                        jump, grab NAME, drop, throw X Y Z, use NAME, press KEY, release KEY, where \
                        NAME, owner NAME, wait SECONDS, leave";
/// Something that was typed.
pub enum Typed {
    Deed(Deed),
    Where(String),
    Owner(String),
    Wait(f64),
    Leave,
}

/// What is typed, line by line, read by a thread of its own, since reading waits.
pub fn typed() -> Receiver<String> {
    let (sender, lines) = mpsc::channel();
    thread::spawn(move || {
        for line in stdin().lock().lines() {
            let Ok(line) = line else { break };
            if sender.send(line).is_err() {
                break;
            }
        }
    });
    lines
}

/// Takes in what has been typed. Whether nothing more will be.
pub fn read(lines: &Receiver<String>, waiting: &mut VecDeque<Typed>) -> bool {
    loop {
        match lines.try_recv() {
            Ok(line) if line.trim().is_empty() => {}
            Ok(line) => {
                let typed = command(&line);
                if typed.is_none() {
                    complain!("`{}` means nothing here; there are {COMMANDS}", line.trim());
                }
                waiting.extend(typed);
            }
            Err(TryRecvError::Empty) => return false,
            Err(TryRecvError::Disconnected) => return true,
        }
    }
}

/// What a line means; none if it means nothing.
fn command(line: &str) -> Option<Typed> {
    let words: Vec<&str> = line.split_whitespace().collect();
    let (verb, rest) = words.split_first()?;
    let numbers: Option<Vec<f64>> = rest.iter().map(|word| word.parse().ok()).collect();
    let numbers = numbers.unwrap_or_default();
    let name = || (!rest.is_empty()).then(|| rest.join(" "));
    let to = || match numbers[..] {
        [x, z] => Some(To::from([x, 0.0, z])),
        _ => name().map(To::Name),
    };
    Some(Typed::Deed(match *verb {
        "walk" => Deed::Walk { to: to()? },
        "straight" => Deed::WalkStraight { to: to()? },
        "face" => Deed::Face { to: to()? },
        "follow" => Deed::Follow { whom: name()?, near: 1.0 },
        "halt" => Deed::Halt,
        "jump" => Deed::Jump,
        "grab" => Deed::Grab { what: name()? },
        "drop" => Deed::Drop,
        "throw" => Deed::Throw { velocity: numbers.try_into().ok()? },
        "use" => Deed::Interact { with: name()? },
        "press" => Deed::Press { key: name()? },
        "release" => Deed::Release { key: name()? },
        "where" => return Some(Typed::Where(name()?)),
        "owner" => return Some(Typed::Owner(name()?)),
        "wait" => {
            let [seconds] = numbers[..] else { return None };
            return (0.0..=86_400.0).contains(&seconds).then_some(Typed::Wait(seconds));
        }
        "leave" => return Some(Typed::Leave),
        _ => return None,
    }))
}
