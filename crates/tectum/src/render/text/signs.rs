//! Signs, each with the tone that it has: no meaning is told by colour alone.

use crate::page::{Edge, Sign, Tone};

/// A sign as it is shown.
pub(crate) fn sign(sign: Sign) -> (Tone, &'static str) {
    let shown = match sign {
        Sign::Critical => "◆ ",
        Sign::Warning => "▲ ",
        Sign::Notice => "▪ ",
        Sign::Accepted => "✓ ",
        Sign::Action => "→ ",
        Sign::Becomes => " → ",
        Sign::RestsOn => " ◂ ",
        Sign::Quote => "│ ",
        Sign::Between => " · ",
        Sign::Found(Edge::Begin) => "›",
        Sign::Found(Edge::End) => "‹",
    };
    (sign.tone(), shown)
}
