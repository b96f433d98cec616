//! How the program is linked.

use std::{env, path::Path, process::Command};

/// The oldest C library whose loader knows packed relocations.
const KNOWS: (u32, u32) = (2, 36);

fn main() {
    println!("cargo::rerun-if-changed=build.rs");
    let is = |name: &str, wanted: &str| env::var(name).is_ok_and(|value| value == wanted);
    let here = env::var("HOST").is_ok_and(|host| is("TARGET", &host));
    if !here || !is("PROFILE", "release") || !is("CARGO_CFG_TARGET_ENV", "gnu") {
        return;
    }
    if !is("CARGO_FEATURE_PORTABLE", "1") {
        pack_pointers();
    }
    take_unwinder_in();
}

/// Nearly all that the loader does at a start is to bind pointers, each named by an entry of 24 bytes. Packed they are
/// named by a bit each: the program starts faster and is 800 KB smaller. A system whose loader does not know them
/// refuses such a program, so it is made where the program is built for this very system, and its loader does.
fn pack_pointers() {
    if version().is_some_and(|own| own >= KNOWS) {
        println!("cargo::rustc-link-arg-bins=-Wl,-z,pack-relative-relocs");
    }
}

/// What unwinds the stack is a library of its own, and to load that takes a tenth of a start. The compiler brings it
/// to be taken in as well; where it does not, it is loaded as usual.
fn take_unwinder_in() {
    let asked = Command::new("cc").arg("-print-file-name=libgcc_eh.a").output();
    let Some(said) = asked.ok().and_then(|asked| String::from_utf8(asked.stdout).ok()) else {
        return;
    };
    let library = Path::new(said.trim());
    if let Some(folder) = library.parent().filter(|_| library.is_absolute() && library.is_file()) {
        println!("cargo::rustc-link-search=native={}", folder.display());
        println!("cargo::rustc-link-lib=static:-bundle=gcc_eh");
    }
}

/// The version of this system's C library.
fn version() -> Option<(u32, u32)> {
    let said = Command::new("getconf").arg("GNU_LIBC_VERSION").output().ok()?;
    let said = String::from_utf8(said.stdout).ok()?;
    let mut numbers = said.split_whitespace().nth(1)?.split('.').map(str::parse);
    Some((numbers.next()?.ok()?, numbers.next()?.ok()?))
}
