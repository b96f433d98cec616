//! Options of mounts, which may hold secrets (mount(8), mount.cifs(8)).

use tectum_report::leaf::{Identifies, Redact};

/// Whether an option holds a secret.
pub fn is_secret(option: &str) -> bool {
    let (key, value) = option.split_once('=').unwrap_or((option, ""));
    let key = key.to_ascii_lowercase();
    !value.is_empty()
        && ["pass", "secret", "key", "token"].iter().any(|word| key.contains(word))
        && key != "keyfile"
}

/// A line without the values of options that hold a secret.
pub fn strip_secrets(line: &str) -> String {
    let word = |word: &str| {
        let options = word.split(',').map(|option| match option.split_once('=') {
            Some((key, _)) if is_secret(option) => format!("{key}=…"),
            _ => option.to_owned(),
        });
        options.collect::<Vec<_>>().join(",")
    };
    line.split(' ').map(word).collect::<Vec<_>>().join(" ")
}

/// A list of options with commas between them, fit to share: secrets are left out, each of the others
/// is made anew.
pub(crate) fn redacted(options: &str, by: &dyn Redact) -> String {
    let options = options.split(',').filter(|option| !is_secret(option));
    options.map(|option| by.text(Identifies::MountOption, option)).collect::<Vec<_>>().join(",")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn secrets_are_left_out() {
        let line = "//srv/x /mnt cifs rw,username=a,password=b=c,credentials=/etc/x 0 0";
        assert_eq!(
            strip_secrets(line),
            "//srv/x /mnt cifs rw,username=a,password=…,credentials=/etc/x 0 0"
        );
        assert!(!is_secret("nopass") && !is_secret("rw"));
    }
}
