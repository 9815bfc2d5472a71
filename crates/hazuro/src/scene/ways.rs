//! Checking what is carried, routes and spawners, and looking up their names.

use crate::Time;

use super::features::Features;
use super::resolve::{MAX_SECONDS, Resolver};
use super::{
    EntityId, Fault, Field, Pace, Route, RouteSpec, SceneBuilder, Spawner, SpawnerSpec, Thing,
};

impl Resolver {
    /// Reports what is wrong with the ways described here.
    pub(super) fn check_motion(&mut self, features: &Features, field: &Field) {
        if let Some(carry) = &features.carry {
            let field = field.key("carry");
            let fits = (0.0..=1e9).contains(&carry.mass);
            self.number(field.key("mass"), carry.mass, fits, "a mass from 0");
            let fits = (0.0..=1.0).contains(&carry.bounce);
            self.number(field.key("bounce"), carry.bounce, fits, "a share from 0 to 1");
            let fits = (0.0..=10.0).contains(&carry.friction);
            self.number(field.key("friction"), carry.friction, fits, "a share from 0 to 10");
            if let Some(hold) = carry.hold {
                self.coordinates(&field.key("hold"), hold);
            }
        }
        if let Some(route) = &features.route {
            self.route(route, &field.key("route"));
        }
        if let Some(spawner) = &features.spawner {
            self.spawner(spawner, &field.key("spawner"));
        }
    }

    /// Checks how long something takes.
    pub(super) fn pace(&mut self, field: &Field, pace: &Pace) {
        match *pace {
            Pace::Over(seconds) => {
                self.seconds(field.key("over"), seconds);
            }
            Pace::Rate(speed) => {
                let fits = (1e-3..=1e4).contains(&speed);
                let need = "a speed from 0.001 to 10000 metres a second";
                self.number(field.key("rate"), speed, fits, need);
            }
        }
    }

    pub(super) fn route(&mut self, route: &Route, field: &Field) -> Option<Box<RouteSpec>> {
        self.pace(field, &route.pace);
        self.seconds(field.key("wait"), route.wait);
        if route.through.len() < 2 {
            self.error(field.key("through"), Fault::Nowhere);
        }
        let stop = |(index, name): (usize, &String)| match name.as_str() {
            "home" => Some(None),
            name => self.entity(name, &field.key("through").item(index)).map(Some),
        };
        let stops: Vec<Option<Option<EntityId>>> =
            route.through.iter().enumerate().map(stop).collect();
        let stops = stops.into_iter().collect::<Option<_>>()?;
        Some(Box::new(RouteSpec { stops, told: route.clone() }))
    }

    pub(super) fn spawner(&mut self, spawner: &Spawner, field: &Field) -> Option<Box<SpawnerSpec>> {
        let need = "a number of seconds from 0.01 to 3000000";
        for (key, seconds) in [("every", Some(spawner.every)), ("oldest", spawner.oldest)] {
            if let Some(seconds) = seconds {
                let fits = (0.01..=MAX_SECONDS).contains(&seconds);
                self.number(field.key(key), seconds, fits, need);
            }
        }
        let kind = self.kind(&spawner.kind, &field.key("kind"))?;
        let bounds = match &spawner.bounds {
            Some(name) => Some(self.entity(name, &field.key("bounds"))?),
            None => None,
        };
        Some(Box::new(SpawnerSpec {
            kind,
            keep: spawner.keep as usize,
            every: Time::from_secs(spawner.every),
            oldest: spawner.oldest.map(Time::from_secs),
            bounds,
        }))
    }

    /// Reports spawners that do not know where, or that are to keep more than there are.
    pub(super) fn areas(&mut self, scene: &SceneBuilder, things: &[Thing]) {
        for (index, thing) in things.iter().enumerate() {
            let Some(spawner) = &thing.spawner else { continue };
            let field = Field::ROOT.key("entity").item(index).key("spawner");
            let own = EntityId(index as u32);
            for (entity, key) in [(Some(own), "kind"), (spawner.bounds, "bounds")] {
                if let Some(entity) = entity.filter(|it| things[it.index()].zone.is_none()) {
                    let name = scene.entities[entity.index()].name.clone();
                    self.error(field.key(key), Fault::NoArea { name });
                }
            }
            let kind = &scene.kinds[spawner.kind.0 as usize];
            let (keep, stock) = (spawner.keep, kind.features.stock);
            if keep > stock as usize {
                let kind = kind.name.clone();
                self.error(field.key("keep"), Fault::SmallStock { keep, kind, stock });
            }
        }
    }
}
