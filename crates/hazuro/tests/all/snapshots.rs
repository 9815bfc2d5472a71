//! A snapshot tells the same as the play of which it was taken, and is the same at another time.

use crate::driver::world;

use hazuro::glam::DVec3;
use hazuro::scene::Facts;
use hazuro::{Chance, Input, Play, Snapshot, Time};
use proptest::prelude::*;

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn a_snapshot_tells_what_the_play_would(seed in any::<u64>(), at in 0.0..3.0_f64) {
        let scene = world::world(seed);
        let mut play = Play::new(scene.clone());
        let mut chance = Chance::new(seed);
        for quarter in 0..12 {
            let place = DVec3::from_array([0; 3].map(|_: i32| chance.around(4.0)));
            let who = scene.entity_id(world::NAMES[(chance.next() * 5.0) as usize]).unwrap();
            let time = Time::from_secs(f64::from(quarter) * 0.25);
            let until = time + Time::from_secs(0.2);
            play.schedule(time, Input::Drive { who, to: place.into(), until }).unwrap();
        }
        // In the memory of another moment.
        let mut taken = play.snapshot();
        play.advance(Time::from_secs(at));
        play.snapshot_into(&mut taken);
        prop_assert_eq!(&taken, &play.snapshot());
        prop_assert_eq!((taken.time(), taken.poses().len()), (play.now(), scene.len()));
        let facts = play.facts();
        for entity in scene.ids() {
            prop_assert_eq!(taken.pose(entity), play.pose(entity).unwrap());
            prop_assert_eq!(taken.is_visible(entity), facts.is_visible(entity));
            prop_assert_eq!(taken.is_enabled(entity), facts.is_enabled(entity));
            let inside: Vec<_> = taken.occupants(entity).collect();
            prop_assert_eq!(inside, play.occupants(entity).unwrap());
            let offers: Vec<_> = taken.offers(entity).collect();
            let offered = play.offers(entity).unwrap();
            prop_assert_eq!(offers, offered.iter().map(|offer| offer.prompt).collect::<Vec<_>>());
        }
    }
}

#[test]
fn a_snapshot_can_be_sent_and_shared() {
    fn both<T: Send + Sync + 'static>(_: &T) {}
    both(&Snapshot::default());
}
