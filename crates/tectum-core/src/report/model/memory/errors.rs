//! Memory errors that the kernel finds and counts (`Documentation/driver-api/edac`).

use crate::report::{fact::Fact, kinds::Text, record::record};

record! {
    /// A memory controller whose errors the kernel counts.
    EccController "ECC controller" {
        place [name];
        derived [size_bytes];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// What kind of controller it is.
        kind: Fact<Text>,
        /// Memory behind it in bytes.
        size_bytes: Fact<u64>,
        /// How errors are found and corrected, each way once.
        modes: Fact<Vec<Text>>,
    }
}

record! {
    /// Errors that were counted since the counters were last set to zero, at the latest at boot.
    EccCount "ECC count" {
        place [controller, module];

        /// The controller.
        controller: Fact<Text>,
        /// The module or rank; for errors that could not be located, none.
        module: Fact<Text>,
        /// The label that the board's list gives the module.
        label: Fact<Text>,
        /// Where the controller sees it.
        location: Fact<Text>,
        /// The slot whose label is the module's.
        slot: Fact<Text>,
        /// Errors that were corrected.
        corrected: Fact<u64>,
        /// Errors that could not be corrected.
        uncorrected: Fact<u64>,
    }
}
