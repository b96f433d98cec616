//! What stands at the end of the long help: lines as they are typed.

pub(super) const SURVEY: &str = "\
  tectum survey                                     who is this machine, what is in it
  tectum survey memory storage                      slots and disks, drawn
  tectum survey --out today.json                    saved whole, for your eyes only
  tectum survey --out page.html                     a page for somebody who was not there
  tectum survey --from 'tide-*' --out fleet.db      a database of the archive's machines
  tectum survey --format csv --table storage_disks  one table for a spreadsheet
  tectum survey os --watch-for 5s                   rates, from two looks";

pub(super) const COMPARE: &str = "\
  tectum compare yesterday.json today.json
  tectum compare gannet@previous gannet
  tectum compare a.json b.json --only memory
  tectum compare a.json b.json --format html --out changes.html
  tectum compare 'tide-*'                           which of these is the odd one";

pub(super) const CHECK: &str = "\
  tectum check
  tectum check reports/ --only filesystem-nearly-full
  tectum check gannet.json --expect order.toml --without-rules
  tectum check --explain memory-errors-corrected
  tectum check @tide --format junit --out findings.xml";

pub(super) const FIND: &str = "\
  tectum find SK7N-0011902
  tectum find 32GiB --from reports/
  tectum find --pattern 'LW-77*' --only memory --from a.json --from b.json";

pub(super) const WHY: &str = "\
  tectum why memory.modules.A1.serial
  tectum why 'storage.disks.*.wwn' --from today.json
  tectum why firmware                               each source of a section once";

pub(super) const SPACE: &str = "\
  sudo tectum space                                 the disk is full: what fills it
  tectum space /srv --depth 3 --top 5
  tectum space /var/log --older-than 90d            what nobody changed for so long
  tectum space /srv --exclude '*.iso' --exclude 'cache/**'
  tectum space / --format csv --out folders.csv";

pub(super) const CAPTURE: &str = "\
  sudo tectum capture --out host.tar.zst
  tectum survey --from host.tar.zst";

pub(super) const REDACT: &str = "\
  tectum redact host.tar.zst --out to-share.tar.zst
  tectum redact --make-key fleet.key
  tectum redact host.tar.zst --out to-share.tar.zst --key fleet.key";

pub(super) const EXPECT: &str = "\
  tectum expect --from gannet.json --out order.toml
  tectum check petrel.json --expect order.toml --without-rules";

pub(super) const COMPLETIONS: &str = "\
  source <(tectum completions bash)                 in ~/.bashrc
  source <(tectum completions zsh)                  in ~/.zshrc
  tectum completions fish | source                  in ~/.config/fish/config.fish";

pub(super) const MANUAL: &str = "\
  tectum manual survey | man -l -
  tectum manual --out /usr/local/share/man/man1";
