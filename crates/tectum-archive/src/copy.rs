//! Moving machines from one archive into another, without loss.

use crate::{
    store::{Brought, Store, StoreError},
    written::Piece,
};

/// How much was copied.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Copied {
    /// Machines that were gone through.
    pub machines: u64,
    /// Observations that were not there yet.
    pub observations: u64,
    /// Observations that were there already.
    pub stood_already: u64,
}

/// Copies all of an archive into another: observations as they are, in their chain, with marks and with what
/// was removed.
///
/// # Errors
/// What stood in the way; what was copied until then stays.
pub fn copy(
    from: &dyn Store,
    to: &dyn Store,
    tell: &mut dyn FnMut(&str),
) -> Result<Copied, StoreError> {
    let mut copied = Copied::default();
    for latest in from.machines()? {
        let key = &latest.machine;
        tell(key);
        copied.machines += 1;
        for entry in from.entries(key)? {
            let text = from.observation_text(key, entry.number)?;
            let observation = from.observation(key, entry.number)?;
            let state = from.state(key, &observation.state)?;
            let mut origins = Vec::new();
            for at in from.origins_list(key, entry.number)? {
                let text = from.origins_text(key, &at)?;
                origins.push(Piece { section: at.section, digest: at.digest, text });
            }
            match to.bring(key, &Brought { observation, text, state, origins })? {
                true => copied.observations += 1,
                false => copied.stood_already += 1,
            }
        }
        let removed = from.removed(key)?;
        if !removed.is_empty() {
            to.bring_removed(key, &removed)?;
        }
        for mark in from.marks(key)? {
            to.mark(key, &mark)?;
        }
    }
    Ok(copied)
}
