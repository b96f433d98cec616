//! Software: kernels, live patches, where packages come from, how many are installed.

use crate::{
    declare::record,
    fact::Fact,
    leaf::{FreeText, Label, PathName, SuiteName, Term},
};

record! {
    /// A kernel that is installed.
    InstalledKernel "installed kernel" {
        source "the folders /lib/modules and /boot";
        place [release];

        /// The kernel's release, as `uname -r` would print it.
        release: Fact<Term>,
        /// Whether its modules are there.
        modules: Fact<bool>,
        /// Whether a boot file of it is there.
        boot_file: Fact<bool>,
        /// Whether it is the one that runs.
        running: Fact<bool>,
    }
}

record! {
    /// A patch put into the running kernel (`Documentation/livepatch`).
    LivePatch "live patch" {
        source "Documentation/livepatch/livepatch.rst";
        place [name];

        /// The name of the module that holds the patch.
        name: Fact<Label>,
        /// Whether it is in effect.
        enabled: Fact<bool>,
    }
}

record! {
    /// A place that packages come from.
    Repository "package repository" {
        source "the configuration of apt, dnf, zypper, pacman and apk";
        identity unique [manager, kind, uris, suites], [manager, name, uris], [manager, uris];
        incidental [line];

        /// The package manager that uses it, by the form of its file: apt, dnf, zypper, pacman, apk.
        manager: Fact<Term>,
        /// What it is called.
        name: Fact<Label>,
        /// Whether it is used.
        enabled: Fact<bool>,
        /// What kind of packages it holds, where the file says so (`deb`, `deb-src`).
        kind: Fact<Term>,
        /// Where it is: the URIs as its file has them.
        uris: Fact<Vec<FreeText>>,
        /// Suites or distributions.
        suites: Fact<Vec<SuiteName>>,
        /// Parts of the repository that are used, as they are listed.
        components: Fact<Vec<SuiteName>>,
        /// Whether the file asks for signatures to be checked, or names the keys to check them by.
        signatures_checked: Fact<bool>,
        /// The file that names it.
        file: Fact<PathName>,
        /// The line at which it begins there.
        line: Fact<u64>,
    }
}

record! {
    /// A database of installed packages.
    PackageDatabase "package database" {
        source "the database of dpkg, apk, pacman or rpm";
        place [manager];

        /// The package manager whose it is.
        manager: Fact<Term>,
        /// How many packages are installed.
        packages: Fact<u64>,
    }
}
