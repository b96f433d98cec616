//! Processors of every architecture: how many there are, what they say of themselves, what they
//! share. The samples are made as the kernels of these architectures write them.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use rstest::rstest;
use serde_json::{Value, json};
use support::{changed, json as of_report, look};

const CPU: &str = "sys/devices/system/cpu";

/// A machine of which nothing but `/proc/cpuinfo` and the architecture's name is known.
fn told_by(architecture: &str, cpuinfo: &str) -> Value {
    let report = changed(|tree| {
        tree.remove("sys");
        tree.line("proc/sys/kernel/arch", architecture);
        tree.file("proc/cpuinfo", cpuinfo);
    });
    report["inventory"]["cpu"].clone()
}

fn features(cpu: &Value, group: &str) -> Vec<String> {
    let groups = cpu["features"].as_array().unwrap();
    let found = groups.iter().find(|one| one["group"] == group);
    found.map_or(Vec::new(), |one| serde_json::from_value(one["flags"].clone()).unwrap())
}

const RISCV: &str = "processor\t: 0\nhart\t\t: 2\nisa\t\t: rv64imafdc_zicsr_zbkb_sstc\n\
mmu\t\t: sv39\nuarch\t\t: tarn,reef-5\nmvendorid\t: 0x489\nmarchid\t\t: 0x8000000000000007\n\
mimpid\t\t: 0x4210427\n\nprocessor\t: 1\nhart\t\t: 1\nisa\t\t: rv64imafdc_zicsr_zbkb_sstc\n\
mmu\t\t: sv39\nuarch\t\t: tarn,reef-5\nmvendorid\t: 0x489\nmarchid\t\t: 0x8000000000000007\n\
mimpid\t\t: 0x4210427\n";

#[test]
fn riscv64() {
    let cpu = told_by("riscv64", RISCV);
    assert_eq!((&cpu["online"], &cpu["threads"]), (&json!([0, 1]), &json!(2)));
    assert_eq!(cpu["model_name"], "tarn,reef-5");
    assert_eq!(cpu["instruction_set"], "rv64imafdc_zicsr_zbkb_sstc");
    assert_eq!(cpu["memory_management"], "sv39");
    assert_eq!(cpu["implementer_id"], "0x489");
    assert_eq!(features(&cpu, "cryptography"), ["zbkb"]);
    assert!(features(&cpu, "other").contains(&"sstc".to_owned()));
    assert_eq!(
        (&cpu["byte_order"], &cpu["operating_widths_bits"]),
        (&json!("little-endian"), &json!([64]))
    );
}

const POWER: &str = "processor\t: 0\ncpu\t\t: POWER9 (architected), altivec supported\n\
clock\t\t: 2800.000000MHz\nrevision\t: 2.2 (pvr 004e 1202)\n\nprocessor\t: 8\n\
cpu\t\t: POWER9 (architected), altivec supported\nclock\t\t: 2800.000000MHz\n\
revision\t: 2.2 (pvr 004e 1202)\n\ntimebase\t: 512000000\nplatform\t: pSeries\n\
model\t\t: SKR,0009-42A\nmachine\t\t: CHRP SKR,0009-42A\nMMU\t\t: Radix\n";

#[test]
fn ppc64le() {
    let report = changed(|tree| {
        tree.remove("sys");
        tree.line("proc/sys/kernel/arch", "ppc64le");
        tree.file("proc/cpuinfo", POWER);
    });
    let cpu = &report["inventory"]["cpu"];
    assert_eq!(cpu["online"], json!([0, 8]), "numbers as the kernel gives them");
    assert_eq!(cpu["model_name"], "POWER9 (architected), altivec supported");
    assert_eq!(cpu["revision"], "2.2 (pvr 004e 1202)");
    assert_eq!(cpu["memory_management"], "Radix");
    assert_eq!(cpu["board"], "CHRP SKR,0009-42A");
    assert!(cpu["model"].is_null(), "the machine's model is no number of the processor's");
    assert_eq!(report["readings"]["cpu"]["current_mhz"], json!([2800, 2800]));
}

const MAINFRAME: &str = "vendor_id       : IBM/S390\n# processors    : 3\n\
bogomips per cpu: 3033.00\nmax thread id   : 0\n\
features\t: esan3 zarch stfle msa ldisp eimm dfp edat etf3eh highgprs te vx vxd vxe gs sie \n\
facilities      : 0 1 2 3\n\
cache0          : level=1 type=Data scope=Private size=128K line_size=256 associativity=8\n\
processor 0: version = FF,  identification = 2733E8,  machine = 3906\n\
processor 1: version = FF,  identification = 2733E8,  machine = 3906\n\
processor 2: version = FF,  identification = 2733E8,  machine = 3906\n\n\
cpu number      : 0\nversion         : FF\ncpu MHz dynamic : 5208\ncpu MHz static  : 5208\n\n\
cpu number      : 1\ncpu MHz dynamic : 5208\n\ncpu number      : 2\ncpu MHz dynamic : 5208\n";

#[test]
fn s390x() {
    let cpu = told_by("s390x", MAINFRAME);
    assert_eq!((&cpu["online"], &cpu["threads"]), (&json!([0, 1, 2]), &json!(3)));
    assert_eq!(cpu["vendor"], "IBM/S390");
    assert_eq!(cpu["byte_order"], "big-endian");
    assert_eq!(features(&cpu, "virtualization"), ["sie"]);
    assert_eq!(features(&cpu, "vector"), ["msa", "vx", "vxd", "vxe"]);
    assert_eq!(cpu["virtualization"], "interpretive execution (sie)");
}

const LOONG: &str = "system type\t\t: generic-loongson-machine\n\nprocessor\t\t: 0\n\
package\t\t\t: 0\ncore\t\t\t: 0\nglobal_id\t\t: 0\nCPU Family\t\t: Loongson-64bit\n\
Model Name\t\t: Loongson-3A5000\nCPU Revision\t\t: 0x10\nFPU Revision\t\t: 0x00\n\
CPU MHz\t\t\t: 2500.00\nBogoMIPS\t\t: 5000.00\nTLB Entries\t\t: 2112\n\
Address Sizes\t\t: 48 bits physical, 48 bits virtual\nISA\t\t\t: loongarch32 loongarch64\n\
Features\t\t: cpucfg lam ual fpu lsx lasx crc32 complex crypto lvz\n";

#[test]
fn loongarch64() {
    let cpu = told_by("loongarch64", LOONG);
    assert_eq!(cpu["model_name"], "Loongson-3A5000");
    assert_eq!(cpu["instruction_set"], "loongarch32 loongarch64");
    assert_eq!(
        (&cpu["physical_address_bits"], &cpu["virtual_address_bits"]),
        (&json!(48), &json!(48))
    );
    assert_eq!(features(&cpu, "vector"), ["lasx", "lsx"]);
    assert_eq!(features(&cpu, "cryptography"), ["crc32", "crypto"]);
    assert_eq!(cpu["revision"], "0x10");
}

/// The first CPU's lines follow the board's without a blank one between.
const MIPS: &str = "system type\t\t: Skerry Malta\nmachine\t\t\t: skr,malta\nprocessor\t\t: 0\n\
cpu model\t\t: MIPS 24Kc V0.0  FPU V0.0\nBogoMIPS\t\t: 1000.00\nwait instruction\t: yes\n\
isa\t\t\t: mips1 mips2 mips32r1 mips32r2\nASEs implemented\t: mips16 dsp\npackage\t\t\t: 0\n\n\
processor\t\t: 1\ncpu model\t\t: MIPS 24Kc V0.0  FPU V0.0\n";

#[test]
fn mips() {
    let cpu = told_by("mips", MIPS);
    assert_eq!(cpu["online"], json!([0, 1]));
    assert_eq!(cpu["model_name"], "MIPS 24Kc V0.0  FPU V0.0");
    assert_eq!(cpu["board"], "skr,malta");
    assert!(cpu["byte_order"].is_null(), "kernels for it come in both orders");
    assert_eq!(cpu["operating_widths_bits"], json!([32]));
}

#[test]
fn i686() {
    let text = "processor\t: 0\nvendor_id\t: TarnSilicon\ncpu family\t: 6\nmodel\t\t: 8\n\
                model name\t: Tarn T3 800MHz\nstepping\t: 3\ncpu MHz\t\t: 797.973\n\
                fdiv_bug\t: no\nflags\t\t: fpu vme de pse tsc msr mce cx8 sep mtrr mmx fxsr sse\n";
    let cpu = told_by("i686", text);
    assert_eq!((&cpu["family"], &cpu["stepping"]), (&json!(6), &json!(3)));
    assert_eq!(cpu["operating_widths_bits"], json!([32]));
    assert_eq!(cpu["runs_on"], "no-sign-of-a-hypervisor");
    assert_eq!(cpu["threads"], 1);
}

/// A board whose kernel is from before 3.8: one processor line for all, the board's own behind.
const OLD_ARM: &str = "Processor\t: ARMv6-compatible processor rev 7 (v6l)\nBogoMIPS\t: 697.95\n\
processor\t: 0\n\nFeatures\t: swp half thumb fastmult vfp edsp java tls \nCPU implementer\t: 0x41\n\
CPU architecture: 7\nCPU variant\t: 0x0\nCPU part\t: 0xb76\nCPU revision\t: 7\n\n\
Hardware\t: Limpet 1\nRevision\t: 000e\nSerial\t\t: 00000000b4c1d2e3\n";

#[test]
fn a_board_with_a_serial_number() {
    let cpu = told_by("armv6l", OLD_ARM);
    assert_eq!((&cpu["vendor"], &cpu["model_name"]), (&json!("ARM"), &json!("ARM1176")));
    assert_eq!((&cpu["board"], &cpu["board_revision"]), (&json!("Limpet 1"), &json!("000e")));
    assert_eq!(cpu["board_serial"], "00000000b4c1d2e3");
    assert_eq!((&cpu["variant"], &cpu["part_id"]), (&json!("0x0"), &json!("0xb76")));
}

fn arm_cpu(number: u32, part: &str) -> String {
    format!(
        "processor\t: {number}\nFeatures\t: fp asimd aes\nCPU implementer\t: 0x41\n\
         CPU architecture: 8\nCPU variant\t: 0x0\nCPU part\t: {part}\nCPU revision\t: 4\n\n"
    )
}

#[test]
fn kinds_of_core_by_part_number() {
    let text: String = ["0xd03", "0xd03", "0xd08", "0xfff"]
        .iter()
        .zip(0..)
        .map(|(part, number)| arm_cpu(number, part))
        .collect();
    let cpu = told_by("aarch64", &text);
    let kinds = cpu["core_kinds"].as_array().unwrap();
    assert_eq!(kinds[0], json!({ "name": "Cortex-A53", "cpus": [0, 1] }));
    assert_eq!(kinds[1], json!({ "name": "Cortex-A72", "cpus": [2] }));
    assert_eq!(kinds[2], json!({ "name": "part 0x41:0xfff", "cpus": [3] }), "by its number");
    assert_eq!(cpu["all_alike"], false);
}

#[test]
fn kinds_of_core_by_the_kernels_lists() {
    let report = changed(|tree| {
        tree.line("sys/devices/cpu_core/cpus", "0-11");
        tree.line("sys/devices/cpu_atom/cpus", "12-15");
    });
    let kinds = &report["inventory"]["cpu"]["core_kinds"];
    assert_eq!(kinds[1]["name"], "efficiency");
    assert_eq!(kinds[1]["cpus"], json!([12, 13, 14, 15]));
}

#[test]
fn packages_dies_clusters_cores_and_threads() {
    let report = changed(|tree| {
        for cpu in 0..16 {
            // Two dies a package, two cores a cluster.
            let die = if cpu % 4 < 2 { 0 } else { 2 };
            let base = if cpu % 8 < 4 { 0 } else { 4 };
            let (a, b) = (base + die, base + die + 1);
            let list = format!("{a}-{b},{}-{}", a + 8, b + 8);
            tree.line(format!("{CPU}/cpu{cpu}/topology/die_id"), die);
            tree.line(format!("{CPU}/cpu{cpu}/topology/die_cpus_list"), &list);
            tree.line(format!("{CPU}/cpu{cpu}/topology/cluster_id"), die);
            tree.line(format!("{CPU}/cpu{cpu}/topology/cluster_cpus_list"), &list);
        }
    });
    let cpu = &report["inventory"]["cpu"];
    let counts = ["packages", "dies", "clusters", "cores", "threads"].map(|name| &cpu[name]);
    assert_eq!(counts, [2, 4, 4, 8, 16]);
    let package = &cpu["per_package"][1];
    assert_eq!((&package["dies"], &package["numa_nodes"]), (&json!(2), &json!([1])));
    assert_eq!(package["core_cpus"], json!(["4,12", "5,13", "6,14", "7,15"]));
    assert_eq!(package["cpus"], json!([4, 5, 6, 7, 12, 13, 14, 15]));
    assert_eq!(cpu["disagreements"], json!([]));
}

#[test]
fn sources_that_count_differently_are_all_told() {
    let report = changed(|tree| {
        for cpu in 0..16 {
            tree.line(format!("{CPU}/cpu{cpu}/topology/core_cpus_list"), cpu);
        }
    });
    let cpu = &report["inventory"]["cpu"];
    assert_eq!(cpu["cores"], 16);
    let told: Vec<(&Value, &Value, &Value)> = cpu["disagreements"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| (&one["what"], &one["source"], &one["says"]))
        .collect();
    let cores = json!("cores");
    assert!(told.contains(&(&cores, &json!("firmware"), &json!(8))), "{told:?}");
    assert!(told.contains(&(&cores, &json!("/proc/cpuinfo"), &json!(8))), "{told:?}");
}

#[test]
fn a_cpu_that_is_offline_is_counted_and_not_held_against_the_firmware() {
    let report = changed(|tree| {
        tree.line(format!("{CPU}/online"), "0-14");
        tree.line(format!("{CPU}/isolated"), "2-3");
    });
    let cpu = &report["inventory"]["cpu"];
    assert_eq!((&cpu["threads"], &cpu["offline"]), (&json!(16), &json!([15])));
    assert_eq!(cpu["isolated"], json!([2, 3]));
    let about: Vec<&Value> =
        cpu["disagreements"].as_array().unwrap().iter().map(|one| &one["what"]).collect();
    assert_eq!(about, ["online threads"], "the demo's /proc/cpuinfo still has all");
}

#[rstest]
#[case("(null)")]
#[case("")]
fn a_list_without_a_number_is_known_to_be_empty(#[case] text: &str) {
    let report = changed(|tree| tree.line(format!("{CPU}/isolated"), text));
    assert_eq!(report["inventory"]["cpu"]["isolated"], json!([]));
}

#[test]
fn microcode_that_differs_is_told() {
    let report = changed(|tree| {
        tree.file("proc/cpuinfo", "processor: 0\nmicrocode: 0x1\n\nprocessor: 1\nmicrocode: 0x2\n");
    });
    let cpu = &report["inventory"]["cpu"];
    assert_eq!((&cpu["microcode"], &cpu["all_alike"]), (&json!(["0x1", "0x2"]), &json!(false)));
}

#[test]
fn frequencies_policies_and_boost() {
    let report = changed(|tree| {
        tree.line(format!("{CPU}/cpufreq/policy15/scaling_governor"), "powersave");
        tree.line(format!("{CPU}/cpufreq/policy15/scaling_cur_freq"), 3_600_000);
        tree.remove(&format!("{CPU}/cpufreq/boost"));
        tree.line(format!("{CPU}/intel_pstate/no_turbo"), 1);
    });
    let cpu = &report["inventory"]["cpu"];
    assert_eq!((&cpu["base_frequency_mhz"], &cpu["boost"]), (&json!(2100), &json!(false)));
    let policies = cpu["frequency_policies"].as_array().unwrap();
    assert_eq!(policies.len(), 2, "those alike stand together");
    assert_eq!(
        (&policies[1]["cpus"], &policies[1]["governor"]),
        (&json!([15]), &json!("powersave"))
    );
    let readings = &report["readings"]["cpu"];
    assert_eq!((&readings["slowest_mhz"], &readings["fastest_mhz"]), (&json!(2100), &json!(3600)));
    assert_eq!(readings["current_mhz"].as_array().unwrap().len(), 16);
}

#[rstest]
#[case("Tarn T9 CPU @ 2.40GHz", Some(2400))]
#[case("Tarn T9 CPU @ 3GHz", Some(3000))]
#[case("Tarn T9 CPU @ 866MHz", Some(866))]
#[case("Tarn T9 @ home", None)]
#[case("Tarn T9 @ 9e9GHz", None)]
fn the_frequency_in_a_models_name(#[case] name: &str, #[case] mhz: Option<u64>) {
    let cpu = told_by("x86_64", &format!("processor: 0\nmodel name: {name}\n"));
    assert_eq!(cpu["base_frequency_mhz"].as_u64(), mhz);
}

#[test]
fn throttling_is_summed_over_the_cpus() {
    let report = changed(|tree| {
        for cpu in 0..16 {
            tree.line(format!("{CPU}/cpu{cpu}/thermal_throttle/core_throttle_count"), cpu);
        }
    });
    assert_eq!(report["readings"]["cpu"]["core_throttles"], 120);
    assert!(report["readings"]["cpu"]["package_throttles"].is_null());
}

#[test]
fn vulnerabilities_as_the_kernel_lists_them() {
    let report = changed(|tree| {
        tree.line(format!("{CPU}/vulnerabilities/tide"), "Unknown: No mitigations");
    });
    let all = report["inventory"]["cpu"]["vulnerabilities"].as_array().unwrap();
    let of = |name: &str| all.iter().find(|one| one["name"] == name).unwrap();
    assert_eq!(of("meltdown")["affected"], false);
    assert_eq!(of("mmio_stale_data")["affected"], true);
    assert!(of("tide")["affected"].is_null(), "unknown is not affected and not unaffected");
    assert_eq!(of("tide")["state"], "Unknown: No mitigations");
}

/// The kernel and the C library of the machine that the test runs on count the same CPUs.
#[test]
fn this_machine_has_as_many_cpus_as_its_scheduler_says() {
    let report = of_report(&look(std::path::Path::new("/")));
    let online = report["inventory"]["cpu"]["online"].as_array().unwrap().len();
    let allowed = std::thread::available_parallelism().unwrap().get();
    assert!(online >= allowed, "{online} online, {allowed} may be used");
    let configured = std::fs::read_to_string("/proc/stat").unwrap();
    let lines = configured.lines().filter(|line| {
        line.strip_prefix("cpu").is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_digit()))
    });
    assert_eq!(online, lines.count());
}

/// Several sections read the same file, and the door gives each the first answer.
#[test]
fn a_machine_of_a_thousand_cpus_is_read_whole() {
    let flags = "abcdefghij ".repeat(200);
    let cpu = |number: u32| {
        format!("processor\t: {number}\nmicrocode\t: 0x{number:x}\nflags\t: {flags}\n\n")
    };
    let text: String = (0..1024).map(cpu).collect();
    assert!(text.len() > 2 << 20, "more than is usually read of a file");
    let report = changed(|tree| tree.file("proc/cpuinfo", text));
    let microcode = report["inventory"]["cpu"]["microcode"].as_array().unwrap();
    assert_eq!(microcode.len(), 1024);
    assert_eq!(report["inventory"]["cpu"]["all_alike"], false);
}

#[test]
fn a_cpu_that_is_offline_is_no_disagreement() {
    let report = changed(|tree| {
        tree.line("sys/devices/system/cpu/present", "0-3");
        tree.line("sys/devices/system/cpu/online", "0-2");
    });
    let cpu = &report["inventory"]["cpu"];
    assert_eq!((&cpu["threads"], &cpu["offline"]), (&json!(4), &json!([3])));
    let notes = report["notes"].as_array().unwrap();
    assert!(!notes.iter().any(|note| note.to_string().contains("threads")), "{notes:?}");
}

#[test]
fn what_the_kernel_cannot_know_of_a_vulnerability_is_its_answer() {
    let report = changed(|tree| {
        let folder = "sys/devices/system/cpu/vulnerabilities";
        tree.line(format!("{folder}/reef"), "Unknown: Dependent on hypervisor status");
    });
    let all = report["inventory"]["cpu"]["vulnerabilities"].as_array().unwrap();
    let at = all.iter().position(|one| one["name"] == "reef").unwrap();
    assert_eq!(all[at]["state"], "Unknown: Dependent on hypervisor status");
    assert_eq!(all[at]["affected"], Value::Null);
    let pointer = format!("/inventory/cpu/vulnerabilities/{at}/affected");
    let gaps = report["gaps"].as_array().unwrap();
    let gap = gaps.iter().find(|gap| gap["at"] == pointer.as_str()).unwrap();
    assert_eq!(gap["why"], "not-provided");
}

#[test]
fn a_system_type_is_told_beside_the_machine() {
    let cpu = told_by(
        "mips",
        "system type\t\t: TARN T7621\nmachine\t\t\t: Skerry Buoy Gateway\nprocessor\t\t: 0\n\
         cpu model\t\t: MIPS 1004Kc V2.15\n",
    );
    assert_eq!(cpu["system_type"], "TARN T7621");
    assert_eq!(cpu["board"], "Skerry Buoy Gateway");
}
