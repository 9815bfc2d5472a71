//! How the terminal is laid out: the map, the panels beside it, the lines below.

use hazuro::scene::Facts;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};

use crate::figures::figures;
use crate::theme::{DARK, Mark};
use crate::view::View;

use super::canvas::rgb;
use super::console::{Console, Focus};
use super::map::{self, Chosen, Viewport};
use super::overview::whole;
use super::panels;
use super::text::{faint, of, plain, strong, write};

/// The least size at which anything can be told.
const LEAST: (u16, u16) = (24, 8);
/// From this width on there are panels beside the map.
const WITH_PANELS: u16 = 64;

impl Console {
    /// Draws everything into a buffer of the terminal's size.
    pub fn draw(&mut self, buffer: &mut Buffer) {
        let area = buffer.area;
        buffer.set_style(area, Style::new().bg(rgb(DARK.paper)).fg(rgb(DARK.ink)));
        if area.width < LEAST.0 || area.height < LEAST.1 {
            let words = format!("at least {}x{}", LEAST.0, LEAST.1);
            write(buffer, area, 0, &words, plain());
            return;
        }
        let wide = if area.width >= WITH_PANELS { (area.width * 2 / 5).clamp(28, 52) } else { 0 };
        let map = Rect::new(0, 1, area.width - wide, area.height - 4);
        let resized = self.area != map;
        self.area = map;
        self.head(buffer, Rect { height: 1, ..area });
        self.map(buffer, resized);
        if wide > 0 {
            let side = Rect::new(map.width, 1, wide, area.height - 4);
            for row in 0..side.height {
                buffer.set_string(side.x, side.y + row, "│", faint());
            }
            let inner = Rect { x: side.x + 2, width: wide - 2, ..side };
            panels::draw(self, buffer, inner);
        }
        let below = Rect::new(0, area.height - 3, area.width, 3);
        self.foot(buffer, below);
        panels::overlay(self, buffer, map);
    }

    fn head(&self, buffer: &mut Buffer, area: Rect) {
        let style = Style::new().bg(rgb(DARK.faint)).fg(rgb(DARK.paper));
        buffer.set_style(area, style);
        let play = self.play();
        let state = if self.running { "▶" } else { "❚❚ paused" };
        let speed =
            if self.speed() == 1.0 { String::new() } else { format!(" ×{}", self.speed()) };
        let back = if self.rewind.now() < self.rewind.end() {
            format!(" of {:.2}", self.rewind.end().secs())
        } else {
            String::new()
        };
        let who = self.player().map_or("nobody", |who| play.scene().name(who));
        let view = self.viewport.map_or(View::Top, |viewport| viewport.view);
        let words = format!(
            " {}  {:.2}{back} s {state}{speed}  you are {who}  {}",
            play.scene().title(),
            play.now().secs(),
            view.describe()
        );
        write(buffer, area, 0, &words, style.add_modifier(Modifier::BOLD));
        let hint = "? keys ";
        if area.width > 70 {
            let at = Rect { x: area.width - hint.len() as u16, width: hint.len() as u16, ..area };
            write(buffer, at, 0, hint, style);
        }
    }

    fn map(&mut self, buffer: &mut Buffer, resized: bool) {
        let mut viewport = match self.viewport {
            Some(viewport) if !resized || self.follows => viewport,
            Some(viewport) => whole(self, viewport.view),
            None => whole(self, View::Top),
        };
        if self.follows
            && let Some(pose) = self.player().and_then(|who| self.play().pose(who).ok())
        {
            viewport.middle = viewport.view.flat(pose.position);
        }
        self.viewport = Some(viewport);
        let firings = self.firings();
        let all = figures(self.play(), &firings);
        let chosen = Chosen { player: self.player(), detector: self.chosen };
        map::draw(buffer, self.area, &viewport, &all, chosen, &DARK);
        self.ruler(buffer, &viewport);
    }

    fn ruler(&self, buffer: &mut Buffer, viewport: &Viewport) {
        let metres = crate::picture::round_up(16.0 / viewport.dots);
        let cells = (metres * viewport.dots / 2.0).round() as usize;
        let text = format!("├{}┤ {metres} m ", "─".repeat(cells.saturating_sub(2)));
        write(buffer, self.area, self.area.height - 1, &text, faint());
        if viewport.view == View::Top && self.area.width > 30 {
            let at = Rect { x: self.area.x + self.area.width - 4, width: 4, ..self.area };
            write(buffer, at, 0, "N ↑", faint());
        }
    }

    /// What is offered, what was said or is wrong, and what keys do.
    fn foot(&mut self, buffer: &mut Buffer, area: Rect) {
        let offers = self.offers();
        write(buffer, area, 0, &offers, of(Mark::Offer));
        let now = self.rewind.now();
        let said = panels::said(self);
        let (words, style) = match (&self.broken, &self.notice, said) {
            (Some(broken), ..) => {
                (format!("✗ the last good scene plays on: {broken}"), of(Mark::Fired))
            }
            (None, Some((words, at)), _) if (now - *at).nanos().abs() < 4_000_000_000 => {
                (words.clone(), strong())
            }
            (.., Some(said)) => (said, plain()),
            _ => (String::new(), plain()),
        };
        write(buffer, area, 1, &words, style);
        let keys = match &self.focus {
            Focus::Play => "q quit · ? keys · arrows walk · Enter use · , . tick · < > event · P pause · space jump".to_owned(),
            Focus::Filter => format!("only events with: {}█  (Enter keeps, Esc clears)", self.filter),
            Focus::Jump(typed) => format!("go to second: {typed}█"),
            Focus::Events { .. } => "↑ ↓ choose · Enter goes back there · / filter · Esc".to_owned(),
            Focus::Menu { .. } => "↑ ↓ choose · Enter · Esc".to_owned(),
            Focus::Help => "any key closes this".to_owned(),
            Focus::Timeline => "L closes the timeline; the other keys go on as before".to_owned(),
        };
        write(buffer, area, 2, &keys, faint());
    }

    fn offers(&self) -> String {
        let Some(who) = self.player() else { return String::new() };
        let play = self.play();
        let offer = |offer: hazuro::Offer<'_>| {
            let key = offer.key.strip_prefix("Key").unwrap_or(offer.key);
            let hold = match offer.hold {
                hold if hold > 0.0 && offer.progress > 0.0 => {
                    let done = (offer.progress.min(1.0) * 8.0).round() as usize;
                    format!(" {}{}", "■".repeat(done), "□".repeat(8 - done))
                }
                hold if hold > 0.0 => format!(" (hold {hold} s)"),
                _ => String::new(),
            };
            format!("◇ [{key}] {}{hold}", offer.caption)
        };
        let mut all: Vec<String> =
            play.offers(who).unwrap_or_default().into_iter().map(offer).collect();
        let held = play.in_hands(who).unwrap_or_default();
        all.extend(held.iter().map(|what| format!("holds {}", play.scene().name(*what))));
        let facts = play.facts();
        let effects = facts.effects(who).join(", ");
        if !effects.is_empty() {
            all.push(format!("▬ {effects}"));
        }
        let ground = play.ground(who).ok().flatten().and_then(|ground| ground.under);
        if let Some(ground) = ground {
            all.push(format!("on {}", play.scene().name(ground)));
        }
        all.join("   ")
    }
}
