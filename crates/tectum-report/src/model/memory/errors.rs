//! Memory errors that the kernel finds and counts (`Documentation/driver-api/edac`).

use crate::{
    declare::record,
    fact::Fact,
    leaf::{Bytes, Label, Term},
};

record! {
    /// A memory controller whose errors the kernel counts.
    EccController "ECC controller" {
        source "Documentation/driver-api/edac.rst";
        place [name];
        derived [size_bytes, modes];

        /// The kernel's name for it.
        name: Fact<Term>,
        /// What kind of controller it is.
        kind: Fact<Term>,
        /// Memory behind it in bytes.
        size_bytes: Fact<Bytes>,
        /// How errors are found and corrected, each way once.
        modes: Fact<Vec<Term>>,
    }
}

record! {
    /// Errors that were counted since the counters were last set to zero, at the latest at boot.
    EccCount "ECC count" {
        source "Documentation/driver-api/edac.rst";
        place [controller, module];
        refers slot -> memory.slots.locator;
        counts [corrected, uncorrected];
        reading of memory.ecc_controllers by controller = name;

        /// The memory controller that counts: `mc` and a number.
        controller: Fact<Term>,
        /// The module or rank; for errors that could not be located, none.
        module: Fact<Term>,
        /// The label that somebody gave the module, where it is none of a slot.
        label: Fact<Label>,
        /// Where the controller sees it.
        location: Fact<Term>,
        /// The slot whose label is the module's.
        slot: Fact<Term>,
        /// Errors that were corrected.
        corrected: Fact<u64>,
        /// Errors that could not be corrected.
        uncorrected: Fact<u64>,
    }
}
