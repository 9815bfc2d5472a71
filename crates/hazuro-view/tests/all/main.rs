//! Pictures, reports and the terminal, through the public API. All in one program, so that what plays is
//! compiled once.

mod chains;
mod console;
mod drawing;
mod hosted;
mod pictures;
mod reports;
mod rewind;
mod support;
mod views;
