//! What a host and its clients promise, through their public API; all in one program.

mod desk;
mod hostile;
mod joining;
mod lines;
mod owning;
mod sockets;
mod views;
mod visitors;
