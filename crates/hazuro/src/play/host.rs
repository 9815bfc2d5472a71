//! What a host lends to its handlers: data of its own, of whatever type.

use std::any::type_name;
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};

use crate::describe::{Fault, Trigger};
use crate::record::{Entry, Failure};
use crate::state::Event;

use super::Play;
use super::act::Act;
use super::handler::{HandlerId, Outcome};

impl Play {
    /// Plays to the start of the next tick while the handlers have the host's own data; gives what
    /// happened, in order.
    ///
    /// `host` is moved to the play for the length of the step, with a default value left in its
    /// place, and moved back at its end, also if something panics. Nothing is locked, counted or
    /// allocated, but for a box at the first step with a type.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity, Trigger, Zone}};
    /// #[derive(Default)]
    /// struct Game { score: u32 }
    /// let scene = Scene::builder("Yard")
    ///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
    ///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
    ///     .build()?;
    /// let mut play = Play::new(scene);
    /// play.on_with(Trigger::enter("pad"), |_, act, game: &mut Game| {
    ///     game.score += 10;
    ///     act.disable("pad")
    /// })?;
    /// let mut game = Game::default();
    /// play.step_with(&mut game);
    /// assert_eq!(game.score, 10);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn step_with<T: Default + Send + 'static>(&mut self, host: &mut T) -> &[Entry] {
        self.lend_host(host, |play| {
            play.step();
        });
        self.entries()
    }

    /// Does something with the play, such as [`advance`](Self::advance), while its handlers have
    /// the host's own data; see [`step_with`](Self::step_with).
    pub fn lend_host<T: Default + Send + 'static, R>(
        &mut self,
        host: &mut T,
        run: impl FnOnce(&mut Self) -> R,
    ) -> R {
        let before = self.runtime.host.make_room::<T>();
        self.swap_host(host);
        let outcome = catch_unwind(AssertUnwindSafe(|| run(self)));
        self.swap_host(host);
        if before.is_some() {
            self.runtime.host.put_back(before);
        }
        outcome.unwrap_or_else(|panic| resume_unwind(panic))
    }

    fn swap_host<T: 'static>(&mut self, host: &mut T) {
        if let Some(place) = self.runtime.host.get_mut() {
            std::mem::swap(place, host);
        }
    }

    /// Gives the play data of the host for good, in place of what it had, for handlers to use:
    /// for a type without a default, which [`step_with`](Self::step_with) needs.
    ///
    /// ```
    /// use hazuro::{Play, Scene, scene::Trigger};
    /// struct Score(u32);
    /// let mut play = Play::new(Scene::builder("Yard").build()?);
    /// play.on_with(Trigger::Start, |_, _, score: &mut Score| score.0 += 1)?;
    /// play.set_host(Score(41));
    /// play.step();
    /// assert_eq!(play.host::<Score>().map(|score| score.0), Some(42));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn set_host<T: Send + 'static>(&mut self, host: T) {
        self.runtime.host.set(host);
    }

    /// The host's data that the play has, if it is of this type.
    pub fn host<T: 'static>(&self) -> Option<&T> {
        self.runtime.host.get()
    }

    /// The host's data that the play has, if it is of this type.
    pub fn host_mut<T: 'static>(&mut self) -> Option<&mut T> {
        self.runtime.host.get_mut()
    }

    /// Takes back the host's data that the play has, if it is of this type.
    pub fn take_host<T: 'static>(&mut self) -> Option<T> {
        self.runtime.host.take_box().map(|data| *data)
    }

    /// As [`on`](Self::on), for a handler that is given the host's own data, lent by
    /// [`step_with`](Self::step_with) or [`set_host`](Self::set_host).
    ///
    /// A handler that runs when no such data is there does nothing, and is reported as
    /// [`Problem::Handler`](crate::Problem::Handler).
    ///
    /// # Errors
    /// As [`on`](Self::on).
    pub fn on_with<T: Send + 'static, O: Outcome>(
        &mut self,
        trigger: Trigger,
        handler: impl FnMut(&Event, &mut Act<'_>, &mut T) -> O + Send + 'static,
    ) -> Result<HandlerId, Fault> {
        self.on_each_with([trigger], handler)
    }

    /// As [`on_each`](Self::on_each), for a handler that is given the host's own data; see
    /// [`on_with`](Self::on_with).
    ///
    /// # Errors
    /// As [`on_each`](Self::on_each).
    pub fn on_each_with<T: Send + 'static, O: Outcome>(
        &mut self,
        triggers: impl IntoIterator<Item = Trigger>,
        mut handler: impl FnMut(&Event, &mut Act<'_>, &mut T) -> O + Send + 'static,
    ) -> Result<HandlerId, Fault> {
        self.on_each(triggers, move |event: &Event, act: &mut Act<'_>| {
            act.with_host(|act, host| handler(event, act, host).outcome())?
        })
    }
}

impl Act<'_> {
    /// The host's own data, if it has lent any of this type; see [`Play::step_with`]. A handler
    /// added with [`Play::on_with`] has it already.
    pub fn host<T: 'static>(&mut self) -> Option<&mut T> {
        self.runtime.host.get_mut()
    }

    /// Runs something with the host's own data, of which nobody else knows meanwhile.
    fn with_host<T: Send + 'static, R>(
        &mut self,
        run: impl FnOnce(&mut Self, &mut T) -> R,
    ) -> Result<R, Failure> {
        let Some(mut host) = self.runtime.host.take_box::<T>() else {
            let message = format!(
                "it wants a `{}` of the host, which is not there now: lend it with `step_with` or \
                 `set_host`",
                type_name::<T>()
            );
            return Err(message.into());
        };
        let outcome = catch_unwind(AssertUnwindSafe(|| run(self, &mut host)));
        self.runtime.host.put_back(Some(host));
        outcome.map_err(|panic| resume_unwind(panic))
    }
}
