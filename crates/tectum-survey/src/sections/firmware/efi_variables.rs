//! Variables of UEFI (UEFI 2.10, 3.3) as `/sys/firmware/efi/efivars` shows them.

use super::EFI;
use crate::readers::raw_bytes::raw_bytes;
use crate::{readers::file::File, source::Lease};
use tectum_report::fact::{Evidence, Fact, Gap, Why, saying};

/// The GUID of the variables that UEFI itself defines (UEFI Specification, clause 3.3).
pub(super) const GLOBAL_VARIABLES: &str = "8be4df61-93ca-11d2-aa0d-00e098032b8c";

/// A UEFI variable of one byte; four bytes of attributes stand before it
/// (`Documentation/filesystems/efivarfs`).
pub(super) fn efi_flag(lease: &Lease, name: &str) -> Fact<bool> {
    let path = format!("{EFI}/efivars/{name}-{GLOBAL_VARIABLES}");
    let file = File::read(lease, path);
    match file.bytes() {
        Err(gap) => Fact::gap(gap.clone().hint(saying!(
            "uefi-machines-whose-kernel-mounts",
            "there on UEFI machines whose kernel mounts efivarfs",
        ))),
        Ok(bytes) => match bytes.get(4..) {
            Some([flag @ (0 | 1)]) => {
                let evidence = Evidence::new(
                    file.path().clone(),
                    saying!("byte-behind-attributes", "the byte behind the attributes"),
                )
                .raw(&raw_bytes(bytes));
                Fact::known(*flag == 1, evidence)
            }
            _ => Fact::gap(Gap::new(Why::Invalid).tried(
                file.path().clone(),
                saying!("no-variable-one-byte", "is no variable of one byte"),
            )),
        },
    }
}
