//! What stands at the end of the long help: lines as they are typed. Prose before them is wrapped where it is shown.

pub(super) const SURVEY: &str = "\
Examples:
  tectum survey                                     who is this machine, what is in it
  tectum survey memory storage                      slots and disks, drawn
  tectum survey --out today.json                    saved whole, for your eyes only
  tectum survey --out page.html                     a page for somebody who was not there
  tectum survey --from 'tide-*' --out fleet.db      a database of the archive's machines
  tectum survey --format csv --table storage_disks  one table for a spreadsheet
  tectum survey os --watch-for 5s                   rates, from two looks";

pub(super) const COMPARE: &str = "\
Examples:
  tectum compare yesterday.json today.json
  tectum compare gannet@previous gannet
  tectum compare a.json b.json --only memory
  tectum compare a.json b.json --format html --out changes.html
  tectum compare 'tide-*'                           which of these is the odd one";

pub(super) const CHECK: &str = "\
Examples:
  tectum check
  tectum check reports/ --only filesystem-nearly-full
  tectum check gannet.json --expect order.toml --without-rules
  tectum check --explain memory-errors-corrected
  tectum check @tide --format junit --out findings.xml";

pub(super) const GET: &str = "\
Parts of a path are field names, with the unit at their end or without (`size`, `size_bytes`), and for an element of a \
list its number or what it is called. `*` stands for any of them, `**` for any number. Conditions in brackets choose \
among the elements of a list: = != < <= > >= and ~ for a pattern with wildcards; amounts as people write them (4TB, \
32GiB, 2.5GHz), yes and no, texts in quotes where they hold a comma or a bracket.

Values are exact: whole numbers of the unit in the field's name, unless --units says otherwise. What is missing is told \
on standard error, with its reason, and the status is then 1; a part that is not there is no error.

Examples:
  tectum get memory.modules.A1.size
  tectum get 'storage.disks[rotating=yes, size>=4TB].serial' --from demo:gannet-before
  tectum get 'storage.disks.*.{model,serial,size}' --csv --from yesterday.json --from today.json";

pub(super) const FIND: &str = "\
Examples:
  tectum find SK7N-0011902
  tectum find 32GiB --from reports/
  tectum find --pattern 'LW-77*' --only memory --from a.json --from b.json";

pub(super) const WHY: &str = "\
Examples:
  tectum why memory.modules.A1.serial
  tectum why 'storage.disks.*.wwn' --from today.json
  tectum why firmware                               each source of a section once";

pub(super) const HISTORY: &str = "\
Examples:
  tectum history memory.modules.*.serial gannet
  tectum history os.kernel_release 'tide-*'
  tectum history readings.memory.available_bytes gannet
  tectum history --part SKS4-220418";

pub(super) const SPACE: &str = "\
Examples:
  sudo tectum space                                 the disk is full: what fills it
  tectum space /srv --depth 3 --top 5
  tectum space /var/log --older-than 90d            what nobody changed for so long
  tectum space /srv --exclude '*.iso' --exclude 'cache/**'
  tectum space / --format csv --out folders.csv";

pub(super) const CAPTURE: &str = "\
Examples:
  sudo tectum capture --out host.tar.zst
  tectum survey --from host.tar.zst";

pub(super) const REDACT: &str = "\
Examples:
  tectum redact host.tar.zst --out to-share.tar.zst
  tectum redact --make-key fleet.key
  tectum redact host.tar.zst --out to-share.tar.zst --key fleet.key";

pub(super) const EXPECT: &str = "\
Examples:
  tectum expect --from gannet.json --out order.toml
  tectum check petrel.json --expect order.toml --without-rules";

pub(super) const COMPLETIONS: &str = "\
Examples:
  source <(tectum completions bash)                 in ~/.bashrc
  source <(tectum completions zsh)                  in ~/.zshrc
  tectum completions fish | source                  in ~/.config/fish/config.fish";

pub(super) const MANUAL: &str = "\
Examples:
  tectum manual survey | man -l -
  tectum manual --out /usr/local/share/man/man1";
