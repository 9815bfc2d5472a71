//! Data of the host's, of whatever type, kept while it is lent.

use std::any::Any;
use std::fmt;

/// The host's own data, if it has lent any.
#[derive(Default)]
pub(super) struct HostData(Option<Box<dyn Any + Send>>);

impl HostData {
    pub fn get<T: 'static>(&self) -> Option<&T> {
        self.0.as_ref()?.downcast_ref()
    }

    pub fn get_mut<T: 'static>(&mut self) -> Option<&mut T> {
        self.0.as_mut()?.downcast_mut()
    }

    pub fn set<T: Send + 'static>(&mut self, host: T) {
        match self.get_mut() {
            Some(place) => *place = host,
            None => self.0 = Some(Box::new(host)),
        }
    }

    /// Has a place for data of this type; what was there before, if that was of another.
    pub fn make_room<T: Default + Send + 'static>(&mut self) -> Option<Box<dyn Any + Send>> {
        match self.get::<T>() {
            Some(_) => None,
            None => self.0.replace(Box::new(T::default())),
        }
    }

    /// Puts back what was taken out.
    pub fn put_back(&mut self, data: Option<Box<dyn Any + Send>>) {
        self.0 = data;
    }

    /// Takes it out as it is, to be put back.
    pub fn take_box<T: 'static>(&mut self) -> Option<Box<T>> {
        let data = self.0.take()?;
        match data.downcast() {
            Ok(data) => Some(data),
            Err(other) => {
                self.0 = Some(other);
                None
            }
        }
    }
}

impl fmt::Debug for HostData {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(if self.0.is_some() { "HostData(..)" } else { "HostData" })
    }
}
