//! Signs of a container.
//!
//! The environment of process 1, where some container managers write their name, is not read: it holds whatever
//! secrets the container was given.

use tectum_report::fact::saying;

use super::{Of, Sign};
use crate::{formats::mountinfo, readers::file::File, source::Lease};

/// Every sign there is.
pub(super) fn signs(lease: &Lease) -> Vec<Sign> {
    let mut signs = container_files(lease);
    signs.extend(process_one(lease));
    signs
}

/// Whether the kernel's own threads are seen: its first one is process 2, which none but the kernel's first namespace of
/// processes shows. Where nothing is shown of process 1, processes of others are hidden, and this says nothing.
fn kernel_threads_are_seen(lease: &Lease) -> bool {
    File::read(lease, "/proc/2/comm").text().trim_end() == "kthreadd"
        || File::read(lease, "/proc/1/comm").bytes().is_err()
}

/// Files that container managers leave inside.
fn container_files(lease: &Lease) -> Vec<Sign> {
    let mut signs = Vec::new();
    let mut found = |decisive, says: String, technology, evidence| {
        let sign = "container manager's file";
        signs.push(Sign { of: Of::Container, decisive, sign, says, technology, evidence });
    };
    let file = File::read(lease, "/run/systemd/container");
    let text = file.text().trim().to_owned();
    if !text.is_empty() {
        let evidence = file.evidence(saying!(
            "container-manager-name-process-1",
            "the container manager's name, as process 1 kept it",
        ));
        found(true, text.clone(), container_technology(&text), evidence);
    }
    for (path, technology) in [("/.dockerenv", "Docker"), ("/run/.containerenv", "Podman")] {
        let file = File::read(lease, path);
        if file.bytes().is_ok() {
            // A machine whose disk was made from a container's image has it too.
            let decisive = !kernel_threads_are_seen(lease);
            let rule = match decisive {
                true => saying!(
                    "file-manager-puts-into-containers",
                    "the file that this manager puts into its containers",
                ),
                false => saying!(
                    "file-manager-left-in-image",
                    "the file that this manager puts into its containers, and no proof here: /proc/2/comm shows the kernel's own threads, or processes of others are hidden",
                ),
            };
            // That it is there is the sign; what stands in it are the container's own names.
            let evidence = file.evidence(rule).raw(path);
            found(decisive, path.to_owned(), Some(technology), evidence);
        }
    }
    signs
}

fn container_technology(word: &str) -> Option<&'static str> {
    Some(match word {
        "docker" => "Docker",
        "podman" => "Podman",
        "lxc" => "LXC",
        "lxc-libvirt" => "LXC",
        "systemd-nspawn" => "systemd-nspawn",
        "rkt" => "rkt",
        "wsl" => "WSL",
        "proot" => "PRoot",
        "openvz" => "OpenVZ",
        _ => return None,
    })
}

/// What process 1 is confined by: its control group and where its root is stored.
fn process_one(lease: &Lease) -> Vec<Sign> {
    let mut signs = Vec::new();
    let groups = File::read(lease, "/proc/1/cgroup");
    let text = groups.text();
    let known = [
        ("/docker/", "Docker"),
        ("/docker-", "Docker"),
        ("/libpod-", "Podman"),
        ("/lxc/", "LXC"),
        ("/lxc.payload", "LXC"),
        ("/kubepods", "Kubernetes"),
        ("/machine.slice/systemd-nspawn", "systemd-nspawn"),
    ];
    let group = crate::formats::lines(&text).find_map(|line| {
        let (part, technology) = known.iter().find(|(part, _)| line.raw.contains(part))?;
        Some((line, *part, *technology))
    });
    if let Some((line, part, technology)) = group {
        let evidence = groups.at_line(
            line,
            saying!("control-group-manager-makes", "a control group that this manager makes"),
        );
        // The rest of it is the container's own id.
        let says = format!("{}…", part.trim_end_matches(['/', '-']));
        let sign = "control group of process 1";
        let technology = Some(technology);
        signs.push(Sign { of: Of::Container, decisive: true, sign, says, technology, evidence });
    }
    let mounts = File::read(lease, "/proc/1/mountinfo");
    let text = mounts.text();
    let stores = [
        ("/var/lib/docker/", "Docker"),
        ("/var/lib/containers/storage/", "Podman"),
        ("/containerd/", "containerd"),
    ];
    for mount in mountinfo::parse(&text) {
        let root = mount.mount_point == "/" && mount.filesystem == "overlay";
        let stored = stores.iter().find(|(path, _)| root && mount.super_options.contains(path));
        if let Some((path, technology)) = stored {
            let rule = saying!(
                "root-overlay-layers-manager-stores",
                "the root is an overlay of layers that this manager stores",
            );
            signs.push(Sign {
                of: Of::Container,
                decisive: true,
                sign: "root filesystem of process 1",
                says: format!("overlay of layers in {path}"),
                technology: Some(technology),
                evidence: mounts.at_line(mount.line, rule),
            });
        }
        // Where containers run it is mounted too, in a place of its own.
        if mount.filesystem == "fuse.lxcfs" && mount.mount_point.starts_with("/proc/") {
            let rule = saying!(
                "filesystem-mounted-containers-kind",
                "a filesystem that is mounted in containers of this kind",
            );
            signs.push(Sign {
                of: Of::Container,
                decisive: true,
                sign: "filesystem mounted in process 1",
                says: "lxcfs".to_owned(),
                technology: Some("LXC"),
                evidence: mounts.at_line(mount.line, rule),
            });
            break;
        }
    }
    signs
}
