//! What keys and the mouse do.

use ratatui::crossterm::event::{
    Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, MouseButton, MouseEvent, MouseEventKind,
};

use hazuro::Time;

use super::console::{Console, Focus, Leave};
use super::overview::whole;

impl Console {
    /// Whether it is to be closed.
    pub fn is_over(&self) -> bool {
        self.leave == Some(Leave::Quit)
    }

    fn suspend(&mut self) {
        self.leave = Some(Leave::Suspend);
    }

    /// Whether somebody wants the program to be suspended; said once.
    pub(super) fn takes_suspension(&mut self) -> bool {
        self.leave.take_if(|leave| *leave == Leave::Suspend).is_some()
    }

    fn close(&mut self) {
        self.leave = Some(Leave::Quit);
    }

    /// Takes a key, a mouse event or a change of size.
    pub fn take(&mut self, event: &Event) {
        match event {
            Event::Key(key) if key.kind != KeyEventKind::Release => self.key(*key),
            Event::Mouse(mouse) => self.mouse(*mouse),
            // The next drawing sees its new size; what was shown stays in the middle.
            _ => {}
        }
    }

    fn key(&mut self, key: KeyEvent) {
        if key.modifiers.contains(KeyModifiers::CONTROL) {
            match key.code {
                KeyCode::Char('c' | 'd' | 'q') => self.close(),
                KeyCode::Char('z') => self.suspend(),
                _ => {}
            }
            return;
        }
        match self.focus {
            Focus::Play => self.key_in_play(key),
            Focus::Menu { .. } => self.key_in_menu(key),
            Focus::Events { at } => self.key_in_events(key, at),
            Focus::Filter => self.key_in_filter(key),
            Focus::Jump(_) => self.key_in_jump(key),
            Focus::Help => self.focus = Focus::Play,
            Focus::Timeline => self.key_in_timeline(key),
        }
    }

    fn key_in_play(&mut self, key: KeyEvent) {
        let shift = key.modifiers.contains(KeyModifiers::SHIFT);
        match key.code {
            KeyCode::Up => self.walk([0.0, 1.0], shift),
            KeyCode::Down => self.walk([0.0, -1.0], shift),
            KeyCode::Left => self.walk([-1.0, 0.0], shift),
            KeyCode::Right => self.walk([1.0, 0.0], shift),
            KeyCode::Enter => self.press_first(),
            KeyCode::Tab => self.next_player(),
            KeyCode::Esc => self.filter.clear(),
            KeyCode::Char(letter) => self.letter(letter),
            _ => {}
        }
    }

    fn letter(&mut self, letter: char) {
        match letter {
            'w' => self.walk([0.0, 1.0], false),
            's' => self.walk([0.0, -1.0], false),
            'a' => self.walk([-1.0, 0.0], false),
            'd' => self.walk([1.0, 0.0], false),
            'W' => self.walk([0.0, 1.0], true),
            'S' => self.walk([0.0, -1.0], true),
            'A' => self.walk([-1.0, 0.0], true),
            'D' => self.walk([1.0, 0.0], true),
            ' ' => self.jump(),
            'G' => self.grab(),
            'T' => self.throw(),
            'C' => self.cues(),
            'K' => self.pokes(),
            'N' => self.next_detector(true),
            'B' => self.next_detector(false),
            'P' => self.pause(),
            '.' => self.tick(true),
            ',' => self.tick(false),
            '>' => self.event(true),
            '<' => self.event(false),
            '[' => self.faster(false),
            ']' => self.faster(true),
            'J' => self.focus = Focus::Jump(String::new()),
            'E' => self.focus = Focus::Events { at: usize::MAX },
            '/' => {
                self.filter.clear();
                self.focus = Focus::Filter;
            }
            'L' => self.focus = Focus::Timeline,
            'V' => self.turn(),
            '+' | '=' => self.zoom(1.25),
            '-' | '_' => self.zoom(0.8),
            '0' => self.viewport = None,
            'F' => self.follows = !self.follows,
            '?' | 'H' => self.focus = Focus::Help,
            'q' | 'Q' => self.close(),
            letter if letter.is_ascii_lowercase() => {
                self.press(&format!("Key{}", letter.to_ascii_uppercase()));
            }
            letter if letter.is_ascii_digit() => self.press(&format!("Digit{letter}")),
            letter => self.tell(format!("`{letter}` does nothing here; ? tells what does")),
        }
    }

    /// Looks from the next side, at all of it.
    fn turn(&mut self) {
        if let Some(viewport) = self.viewport {
            let view = viewport.view.next();
            self.viewport = Some(whole(self, view));
        }
    }

    fn zoom(&mut self, factor: f64) {
        if let Some(viewport) = &mut self.viewport {
            viewport.dots = (viewport.dots * factor).clamp(0.02, 400.0);
        }
    }

    fn key_in_menu(&mut self, key: KeyEvent) {
        let Focus::Menu { items, at, .. } = &mut self.focus else { return };
        match key.code {
            KeyCode::Up => *at = at.saturating_sub(1),
            KeyCode::Down => *at = (*at + 1).min(items.len() - 1),
            KeyCode::Enter => {
                let choice = items[*at].1.clone();
                self.choose(choice);
            }
            _ => self.focus = Focus::Play,
        }
    }

    fn key_in_events(&mut self, key: KeyEvent, at: usize) {
        let lines = self.filtered();
        let last = lines.len().saturating_sub(1);
        let at = at.min(last);
        match key.code {
            KeyCode::Up => self.focus = Focus::Events { at: at.saturating_sub(1) },
            KeyCode::Down => self.focus = Focus::Events { at: (at + 1).min(last) },
            KeyCode::PageUp => self.focus = Focus::Events { at: at.saturating_sub(10) },
            KeyCode::PageDown => self.focus = Focus::Events { at: (at + 10).min(last) },
            KeyCode::Home => self.focus = Focus::Events { at: 0 },
            KeyCode::End => self.focus = Focus::Events { at: last },
            KeyCode::Char('/') => self.focus = Focus::Filter,
            KeyCode::Enter => {
                if let Some(index) = lines.get(at) {
                    self.go_to_entry(*index);
                }
                self.focus = Focus::Play;
            }
            _ => self.focus = Focus::Play,
        }
    }

    fn key_in_filter(&mut self, key: KeyEvent) {
        match key.code {
            KeyCode::Char(letter) => self.filter.push(letter),
            KeyCode::Backspace => drop(self.filter.pop()),
            KeyCode::Esc => {
                self.filter.clear();
                self.focus = Focus::Play;
            }
            KeyCode::Enter => self.focus = Focus::Play,
            _ => {}
        }
    }

    fn key_in_jump(&mut self, key: KeyEvent) {
        let Focus::Jump(typed) = &mut self.focus else { return };
        match key.code {
            KeyCode::Char(letter) if letter.is_ascii_digit() || letter == '.' => typed.push(letter),
            KeyCode::Backspace => drop(typed.pop()),
            KeyCode::Enter => {
                let typed = std::mem::take(typed);
                self.focus = Focus::Play;
                match typed.parse::<f64>() {
                    Ok(seconds) if seconds <= 86_400.0 => self.go(Time::from_secs(seconds)),
                    _ => self.tell(format!("`{typed}` is no time in seconds, to 86400")),
                }
            }
            KeyCode::Esc => self.focus = Focus::Play,
            _ => {}
        }
    }

    fn key_in_timeline(&mut self, key: KeyEvent) {
        match key.code {
            KeyCode::Char('L' | 'q' | 'Q') | KeyCode::Esc => self.focus = Focus::Play,
            _ => self.key_in_play(key),
        }
    }

    fn mouse(&mut self, mouse: MouseEvent) {
        let at = (mouse.column, mouse.row).into();
        if self.focus != Focus::Play || !self.area.contains(at) {
            return;
        }
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) => self.click(mouse.column, mouse.row),
            MouseEventKind::Down(MouseButton::Right) => self.walk_to_cell(mouse.column, mouse.row),
            MouseEventKind::Moved => self.hover(mouse.column, mouse.row),
            MouseEventKind::ScrollUp => self.zoom(1.25),
            MouseEventKind::ScrollDown => self.zoom(0.8),
            _ => {}
        }
    }
}
