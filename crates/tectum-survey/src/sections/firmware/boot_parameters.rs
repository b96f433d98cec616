//! The kernel's command line (`Documentation/admin-guide/kernel-parameters.rst`).

use std::collections::HashMap;

use crate::{formats::kernel_parameters, readers::file::File, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{ParameterName, ParameterValue},
    model::BootParameter,
};

pub(super) fn boot_parameters(lease: &Lease) -> Parts<BootParameter> {
    let file = File::read(lease, "/proc/cmdline");
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let text = file.text();
    let mut seen: HashMap<&str, u64> = HashMap::new();
    let parameters: Vec<BootParameter> = kernel_parameters::parse(&text)
        .into_iter()
        .map(|parameter| {
            let number = seen.entry(parameter.name).or_default();
            *number += 1;
            let at =
                |rule: Saying| Evidence::new(file.path().clone(), rule).line(1).raw(parameter.raw);
            let other = |hint: Saying| Gap::new(Why::NotApplicable).hint(hint);
            BootParameter {
                number: Fact::known(
                    *number,
                    at(saying!(
                        "counted-among-those-same-name",
                        "counted among those of the same name",
                    )),
                ),
                name: Fact::known(
                    ParameterName::from(parameter.name),
                    at(saying!("before-first", "before the first =")),
                ),
                value: match parameter.value {
                    None => Fact::gap(other(saying!(
                        "parameter-no-value",
                        "the parameter has no value",
                    ))),
                    Some(value) => Fact::known(
                        ParameterValue(value.to_owned()),
                        at(saying!("behind-first", "behind the first =")),
                    ),
                },
            }
        })
        .collect();
    Parts::known(
        parameters,
        file.evidence(saying!("every-parameter-before-lone", "every parameter before a lone --",)),
    )
}
