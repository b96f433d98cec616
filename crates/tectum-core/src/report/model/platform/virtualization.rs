//! Whether the machine is virtual, or a container, and how that is known.

use crate::report::{
    fact::Fact,
    kinds::{Text, terms},
    record::{Parts, record},
};

record! {
    /// Whether the machine is virtual, or a container, and how that is known.
    Virtualization "virtualization" {
        /// What the operating system runs in.
        runs_in: Fact<RunsIn>,
        /// The technologies that the signs name, the surest first.
        technologies: Fact<Vec<Text>>,
        /// Every sign that was found.
        signs: Parts<VirtualizationSign>,
    }
}

record! {
    /// One sign of a virtual machine or container.
    VirtualizationSign "sign" {
        place [sign, says];

        /// What the sign is.
        sign: Fact<Text>,
        /// What it says.
        says: Fact<Text>,
        /// The technology that it names.
        technology: Fact<Text>,
    }
}

terms! {
    /// What an operating system runs in.
    RunsIn {
        /// A virtual machine.
        VirtualMachine = "virtual-machine",
        /// A container; nothing says that its host is virtual.
        Container = "container",
        /// A container on a virtual machine.
        ContainerInVirtualMachine = "container-in-virtual-machine",
        /// Nothing says that it is virtual. A machine that hides it well looks the same.
        NoSign = "no-sign-of-either",
    }
}
