//! Writes a machine of many parts into a folder: `scaled PARTS FOLDER`.

#![allow(clippy::print_stderr, reason = "an example")]

fn main() {
    let mut words = std::env::args().skip(1);
    let parts = words.next().and_then(|parts| parts.parse().ok());
    let (Some(parts), Some(folder)) = (parts, words.next()) else {
        eprintln!("usage: scaled PARTS FOLDER");
        std::process::exit(2);
    };
    let machine = tectum_demo::Machine::scaled(parts);
    if let Err(error) = tectum_demo::Tree::of(&machine).write(std::path::Path::new(&folder)) {
        eprintln!("{error}");
        std::process::exit(3);
    }
}
