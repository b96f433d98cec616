//! How many packages are installed, where the database is text or folders.

use crate::readers::sayings;
use crate::{
    readers::file::{File, list, listing_evidence},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Term,
    model::PackageDatabase,
};

/// A database of tens of thousands of packages; a larger one is told as too large.
const LIMIT: usize = 64 << 20;

pub(super) fn databases(lease: &Lease) -> Parts<PackageDatabase> {
    let mut found = Vec::new();
    let mut add = |manager: &str, evidence: Evidence, packages: Fact<u64>| {
        let manager = Fact::known(Term::from(manager), evidence.raw("the database is there"));
        found.push(PackageDatabase { manager, packages });
    };
    let texts = [
        ("dpkg", "/var/lib/dpkg/status", "Status: install ok installed"),
        ("apk", "/lib/apk/db/installed", "P:"),
    ];
    let mut tried = Gap::new(Why::NotProvided);
    for (manager, path, start) in texts {
        let file = File::read_up_to(lease, path, LIMIT);
        match file.bytes() {
            Ok(bytes) => {
                let whole = Evidence::new(file.path().clone(), sayings::BY_ITS_DATABASE);
                add(manager, whole, counted(&file, bytes, start));
            }
            Err(gap) => tried.tried.extend(gap.tried.iter().cloned()),
        }
    }
    const PACMAN: &str = "/var/lib/pacman/local";
    if let Ok(names) = list(lease, PACMAN) {
        // A file there names the version of the form.
        let count = names.iter().filter(|name| *name != "ALPM_DB_VERSION").count();
        let evidence =
            listing_evidence(PACMAN, saying!("one-folder-package", "one folder a package"))
                .raw(&count.to_string());
        add(
            "pacman",
            listing_evidence(PACMAN, sayings::BY_ITS_DATABASE),
            Fact::known(count as u64, evidence),
        );
    }
    for path in ["/usr/lib/sysimage/rpm", "/var/lib/rpm"] {
        if list(lease, path).is_ok_and(|names| !names.is_empty()) {
            let gap = Gap::new(Why::NotProvided)
                .tried(path.into(), saying!("binary-database", "is a binary database"))
                .hint(saying!(
                    "only-own-program-can-count",
                    "only its own program can count the packages in it",
                ));
            add("rpm", listing_evidence(path, sayings::BY_ITS_DATABASE), Fact::gap(gap));
            break;
        }
    }
    if found.is_empty() {
        return Parts::missing(tried.hint(saying!(
            "no-package-database-tectum-knows",
            "no package database that Tectum knows was found",
        )));
    }
    let rule =
        saying!("every-database-dpkg-apk-pacman", "every database of dpkg, apk, pacman and rpm",);
    Parts::known(found, Evidence::new("/var/lib".into(), rule))
}

/// The lines that begin so, one for each installed package.
fn counted(file: &File, bytes: &[u8], start: &str) -> Fact<u64> {
    if bytes.len() >= LIMIT {
        return Fact::gap(
            Gap::new(Why::Invalid)
                .tried(file.path().clone(), saying!("larger-than-64-mib", "is larger than 64 MiB")),
        );
    }
    let lines = bytes.split(|byte| *byte == b'\n');
    let count = lines.filter(|line| line.starts_with(start.as_bytes())).count();
    let rule =
        saying!("counted-one-such-line-each", "counted: one such line for each installed package",);
    let evidence = Evidence::new(file.path().clone(), rule);
    Fact::known(count as u64, evidence.raw(&format!("{count} lines {start:?}")))
}
