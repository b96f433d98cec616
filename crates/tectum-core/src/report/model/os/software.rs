//! Software: kernels, live patches, where packages come from, how many are installed.

use crate::report::{
    fact::Fact,
    kinds::{FreeText, Text},
    record::record,
};

record! {
    /// A kernel that is installed.
    InstalledKernel "installed kernel" {
        place [release];

        /// Its release.
        release: Fact<Text>,
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
        place [name];

        /// Its name.
        name: Fact<Text>,
        /// Whether it is in effect.
        enabled: Fact<bool>,
    }
}

record! {
    /// A place that packages come from.
    Repository "package repository" {
        identity [manager, kind, uri, suites];
        place [file, line];

        /// The package manager that uses it, by the form of its file: apt, dnf, zypper, pacman, apk.
        manager: Fact<Text>,
        /// What it is called.
        name: Fact<Text>,
        /// Whether it is used.
        enabled: Fact<bool>,
        /// What kind of packages it holds, where the file says so (`deb`, `deb-src`).
        kind: Fact<Text>,
        /// Where it is: one address, or several with blanks between.
        uri: Fact<FreeText>,
        /// Suites or distributions.
        suites: Fact<Vec<Text>>,
        /// Components.
        components: Fact<Vec<Text>>,
        /// Whether the file asks for signatures to be checked, or names the keys to check them by.
        checked: Fact<bool>,
        /// The file that names it.
        file: Fact<Text>,
        /// The line at which it begins there.
        line: Fact<u64>,
    }
}

record! {
    /// A database of installed packages.
    PackageDatabase "package database" {
        place [manager];

        /// The package manager whose it is.
        manager: Fact<Text>,
        /// How many packages are installed.
        packages: Fact<u64>,
    }
}
