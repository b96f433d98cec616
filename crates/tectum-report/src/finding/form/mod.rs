//! What was found, in the forms that other programs read.

pub mod json;
pub mod junit;
pub mod sarif;
