//! Checking what is carried, routes and spawners, and looking up their names.

use crate::Time;
use crate::describe::{
    EntityId, Fault, Features, Field, Kind, Owners, Ownership, Pace, Route, Spawner, range,
};
use crate::model::{OwnershipSpec, RouteSpec, SpawnerSpec, Thing};

use super::resolver::{Listed, Resolver};

impl Resolver {
    /// Reports what is wrong with the ways described here.
    pub(crate) fn check_motion(&mut self, features: &Features, field: &Field) {
        if let Some(carry) = &features.carry {
            let field = field.key("carry");
            self.range(field.key("mass"), carry.mass, &range::MASS);
            self.range(field.key("bounce"), carry.bounce, &range::SHARE);
            self.range(field.key("friction"), carry.friction, &range::FRICTION);
            self.range(field.key("reach"), carry.reach, &range::LENGTH_OR_NONE);
            if let Some(hold) = carry.hold {
                self.coordinates(&field.key("hold"), hold);
            }
        }
        if let Some(ownership) = &features.ownership {
            self.ownership(ownership, &field.key("ownership"));
        }
        if let Some(route) = &features.route {
            self.route(route, &field.key("route"));
        }
        if let Some(spawner) = &features.spawner {
            self.spawner(spawner, &field.key("spawner"));
        }
    }

    /// Who may own something, with the tags of teams looked up.
    pub(crate) fn ownership(
        &mut self,
        ownership: &Ownership,
        field: &Field,
    ) -> Option<Box<OwnershipSpec>> {
        let by = match &ownership.by {
            Owners::First => Owners::First,
            Owners::Host => Owners::Host,
            Owners::Creator => Owners::Creator,
            Owners::Team(teams) => {
                let field = field.key("by");
                if teams.is_empty() {
                    self.error(field.clone(), Fault::NoTeam);
                }
                let found = teams.iter().enumerate();
                let found = found.map(|(index, tag)| self.tag(tag, &field.item(index)));
                Owners::Team(found.collect::<Vec<_>>().into_iter().collect::<Option<_>>()?)
            }
        };
        let keep = ownership.keep.map(|keep| {
            self.range(field.key("keep"), keep, &range::SECONDS);
            Time::from_secs(keep)
        });
        Some(Box::new(OwnershipSpec { by, keep, secret: ownership.secret }))
    }

    pub(crate) fn route(&mut self, route: &Route, field: &Field) -> Option<Box<RouteSpec>> {
        match route.pace {
            Pace::Over(seconds) => self.range(field.key("over"), seconds, &range::SECONDS),
            Pace::Rate(speed) => self.range(field.key("rate"), speed, &range::TRAVEL_RATE),
        }
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
        Some(Box::new(RouteSpec { stops, config: route.clone() }))
    }

    pub(crate) fn spawner(&mut self, spawner: &Spawner, field: &Field) -> Option<Box<SpawnerSpec>> {
        for (key, seconds) in [("every", Some(spawner.every)), ("oldest", spawner.oldest)] {
            if let Some(seconds) = seconds {
                self.range(field.key(key), seconds, &range::SPAWN_INTERVAL);
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
            first: spawner.first.map_or(usize::MAX, |first| first as usize),
            every: Time::from_secs(spawner.every),
            oldest: spawner.oldest.map(Time::from_secs),
            bounds,
        }))
    }

    /// Reports spawners that do not know where, or that are to keep more than there are.
    pub(crate) fn areas(&mut self, kinds: &[Kind], entities: Listed<'_>, things: &[Thing]) {
        for (index, _) in entities.numbered() {
            let Some(spawner) = &things[index].spawner else { continue };
            let field = entities.field(index).key("spawner");
            let own = self.numbering.entity(index);
            for (entity, key) in [(Some(own), "kind"), (spawner.bounds, "bounds")] {
                if let Some(entity) = entity.filter(|it| things[it.index()].zone.is_none()) {
                    let name = entities.name(entity.index()).into();
                    self.error(field.key(key), Fault::NoArea { name });
                }
            }
            let kind = &kinds[spawner.kind.0 as usize];
            let (keep, stock) = (spawner.keep, kind.features.stock);
            if keep > stock as usize {
                let kind = kind.name.clone();
                self.error(field.key("keep"), Fault::SmallStock { keep, kind, stock });
            }
        }
    }
}
