//! A map that is put together figure by figure, each of another moment.

use std::collections::BTreeMap;

use hazuro::Time;

use crate::figures::Figure;
use crate::view::{View, Window};

use super::map::{Frame, Scale, compass, depth, draw_figure, furniture, grid, names, ruler};
use super::svg::Svg;

/// A map from above being put together.
pub(crate) struct Live {
    title: String,
    frame: Frame,
    scale: Scale,
    svg: Svg,
    /// By depth: the figures, and their names above them all.
    layers: BTreeMap<u8, Svg>,
}

/// Above every figure.
const NAMES: u8 = u8::MAX;

impl Live {
    pub fn new(title: &str, frame: Frame, window: &Window) -> Self {
        let scale = Scale::new(window, &frame);
        let mut svg = Svg::new("v", [frame.size[0] + 2.0, frame.size[1] + 2.0]);
        svg.begin("map", &[]);
        svg.begin_clip(frame.at, frame.size);
        grid(&mut svg, &scale, &scale.window(&frame));
        Self { title: title.to_owned(), frame, scale, svg, layers: BTreeMap::new() }
    }

    /// Adds figures as they are at a time.
    pub fn add(&mut self, figures: &[Figure<'_>], time: Time) {
        let shown = self.scale.window(&self.frame);
        let at = format!("{:.3}", time.secs());
        for figure in figures {
            let size = self.svg.size();
            let layer =
                self.layers.entry(depth(figure.mark)).or_insert_with(|| Svg::new("v", size));
            let entity = figure.entity.index().to_string();
            let class = format!("d-{}", figure.mark.code());
            let plain = figure.plain.code();
            layer.begin(&class, &[("data-e", &entity), ("data-t", &at), ("data-m", plain)]);
            draw_figure(layer, &self.scale, &shown, View::Top, figure, &mut Vec::new());
            layer.end();
        }
        // Who comes later may come anywhere; it is named when the pointer rests on it.
        if time > Time::ZERO {
            return;
        }
        let size = self.svg.size();
        let layer = self.layers.entry(NAMES).or_insert_with(|| Svg::new("v", size));
        names(layer, &self.scale, &self.frame, (View::Top, figures), furniture(&self.frame));
    }

    /// The map; how many pixels a metre has, and where the origin is.
    pub fn finish(mut self) -> (String, (f64, [f64; 2])) {
        for layer in self.layers.into_values() {
            self.svg.append(layer);
        }
        self.svg.end();
        self.svg.rect("frame", self.frame.at, self.frame.size);
        ruler(&mut self.svg, &self.frame, &self.scale);
        compass(&mut self.svg, &self.frame, View::Top);
        self.svg.end();
        let scale = (self.scale.pixels, self.scale.pixel([0.0, 0.0]));
        (self.svg.finish_inline(&format!("{}, from above", self.title)), scale)
    }
}
