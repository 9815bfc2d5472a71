//! What scripts promise, in one program.

mod loading;
mod scripts;
