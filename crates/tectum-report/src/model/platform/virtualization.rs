//! Whether the machine is virtual, or a container, and how that is known.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Label, Term, Uuid, codes},
};

record! {
    /// Whether the machine is virtual, or a container, and how that is known.
    Virtualization "virtualization" {
        source "the signs, each with its own evidence";
        derived [technologies];

        /// What the operating system runs in.
        runs_in: Fact<RunsIn>,
        /// The technologies that signs of what it runs in name, the surest first.
        technologies: Fact<Vec<Term>>,
        /// Every sign that was found.
        signs: Parts<VirtualizationSign>,
        /// The levels of virtual machines that this one runs on, where the platform tells them.
        levels: Parts<VirtualizationLevel>,
    }
}

record! {
    /// One level of virtual machines beneath this system (IBM Z).
    VirtualizationLevel "level" {
        source "arch/s390/kernel/sysinfo.c (/proc/sysinfo)";
        identity unique [uuid];
        place [number];

        /// Its number: 0 is the nearest.
        number: Fact<u64>,
        /// The name of the virtual machine.
        name: Fact<Label>,
        /// Its name in full.
        extended_name: Fact<Label>,
        /// The program that runs it.
        control_program: Fact<Term>,
        /// Its UUID, lower case.
        uuid: Fact<Uuid>,
        /// CPUs that it was given.
        cpus: Fact<u64>,
    }
}

record! {
    /// One sign of a virtual machine or container.
    VirtualizationSign "sign" {
        source "the sign's own evidence";
        place [sign, says];

        /// What the sign is.
        sign: Fact<Term>,
        /// What the sign says, in its own words.
        says: Fact<Term>,
        /// The technology that it names.
        technology: Fact<Term>,
        /// Whether it decides by itself, as nothing else has such a sign. What does not may be left over, or be found on
        /// real machines too.
        decisive: Fact<bool>,
    }
}

codes! {
    /// What an operating system runs in.
    RunsIn {
        /// A virtual machine.
        VirtualMachine = "virtual-machine",
        /// A container; nothing decides that its host is virtual.
        Container = "container",
        /// A container on a virtual machine.
        ContainerInVirtualMachine = "container-in-virtual-machine",
        /// The one domain that controls a hypervisor: firmware and devices are the machine's own, CPUs and memory what
        /// the hypervisor gives.
        ControlDomain = "control-domain",
        /// There are signs, and none of them decides.
        Unclear = "unclear",
        /// Nothing says that it is virtual. A machine that hides it well looks the same.
        NoSign = "no-sign-of-either",
    }
}

impl RunsIn {
    /// Whether a hypervisor lies beneath, so that CPUs and memory are what that gives.
    pub fn lies_on_a_hypervisor(self) -> bool {
        match self {
            Self::VirtualMachine | Self::ContainerInVirtualMachine | Self::ControlDomain => true,
            Self::Container | Self::Unclear | Self::NoSign => false,
        }
    }
}
