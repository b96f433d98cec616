//! `tectum capture`: keep the raw evidence in one file.

use std::{
    io::{self, Write},
    os::unix::ffi::OsStrExt,
    path::Path,
};
use tectum_report::leaf::Bytes;

use ring::digest::{Context, SHA256};
use tectum_report::save::{Saved, write_pair};
use tectum_survey::{
    extra::{ExtraPattern, read_extra},
    sections::ON_REQUEST,
    source::Outcome,
};

use crate::{
    args::CaptureArgs,
    exit::{DONE, Failure, Status},
    subject::{Depth, Opened, TOOL, open, sections, surveyed},
    views::{Terminal, quantity::size},
};

pub(super) fn run(args: &CaptureArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let also: Vec<ExtraPattern> =
        args.also.iter().map(|pattern| pattern.parse()).collect::<Result<_, _>>()?;
    let mut chosen = sections(&[], &[])?;
    if !args.with.is_empty() {
        let named = sections(&args.with, &[])?;
        chosen.extend(
            named.into_iter().filter(|one| ON_REQUEST.iter().any(|it| it.name == one.name)),
        );
    }
    let opened = open(&args.from, &args.patience, Depth::Whole)?;
    let Opened::Machine(door) = &opened.what else {
        return Err(Failure::NotAMachine(args.from.text()));
    };
    let plan = args.patience.plan(chosen);
    let report = surveyed(door, &args.from, &plan, &mut |event| {
        if !args.quiet {
            super::survey::say(&event, terminal);
        }
    });
    let limit = args.also_limit;
    for extra in read_extra(door, &also, limit, plan.access_deadline) {
        let cut = match extra.outcome {
            Outcome::Done => continue,
            Outcome::Cut => format!(" {}", size(Bytes(limit as u64), crate::args::Units::Iec)),
            _ => String::new(),
        };
        terminal.remark(&format!("{extra}{cut}"));
    }
    if args.out == Path::new("-") {
        door.write_capture(TOOL, report.taken.at, terminal.out_raw())?;
        return Ok(DONE);
    }
    let mut length = 0;
    let saved = save(&args.out, &mut length, |to| door.write_capture(TOOL, report.taken.at, to))?;
    if !args.quiet {
        terminal.remark(&format!(
            "kept {} ({length} bytes, {} accesses, inventory {}){}",
            args.out.display(),
            report.sources.len(),
            report.inventory_digest(),
            match saved {
                Saved::File => "",
                Saved::Stream => "; it is no regular file, so no checksum stands beside it",
            }
        ));
    }
    Ok(DONE)
}

/// Saves a capture, and beside it its checksum in the form that the usual command verifies: digest,
/// two blanks, name.
pub(super) fn save(
    path: &Path,
    length: &mut u64,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<Saved, Failure> {
    let name = path.file_name().unwrap_or_default().as_bytes();
    Ok(write_pair(path, ".sha256", |to| {
        let mut hashing = Hashing { to, digest: Context::new(&SHA256), bytes: 0 };
        write(&mut hashing)?;
        *length = hashing.bytes;
        let digest = hashing.digest.finish();
        let mut line: String = digest.as_ref().iter().map(|byte| format!("{byte:02x}")).collect();
        line.push_str("  ");
        let mut line = line.into_bytes();
        line.extend_from_slice(name);
        line.push(b'\n');
        Ok(line)
    })?)
}

struct Hashing<'a> {
    to: &'a mut dyn Write,
    digest: Context,
    bytes: u64,
}

impl Write for Hashing<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let count = self.to.write(bytes)?;
        self.digest.update(bytes.get(..count).unwrap_or_default());
        self.bytes += count as u64;
        Ok(count)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.to.flush()
    }
}
