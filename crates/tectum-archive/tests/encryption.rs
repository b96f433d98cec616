//! Connections to a database are encrypted as the URL says, to a server that says who it is.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stderr,
    unreachable_pub,
    dead_code,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/server.rs"]
mod server;

use std::{fs, path::PathBuf, sync::OnceLock};

use rcgen::{BasicConstraints, CertificateParams, IsCa, Issuer, KeyPair};
use rstest::rstest;
use server::{Certificate, Server, encrypting_server};
use tectum_archive::store::{StoreError, postgres::PostgresStore};

/// A server, and files that say who is trusted: who vouches for it, and somebody else.
struct Encrypting {
    server: Server,
    trusted: PathBuf,
    other: PathBuf,
}

/// Somebody who vouches for others: what he signs with, and his certificate.
fn authority() -> (Issuer<'static, KeyPair>, String) {
    let key = KeyPair::generate().unwrap();
    let mut own = CertificateParams::new(Vec::new()).unwrap();
    own.is_ca = IsCa::Ca(BasicConstraints::Unconstrained);
    let certificate = own.self_signed(&key).unwrap().pem();
    (Issuer::new(own, key), certificate)
}

fn encrypting() -> Option<&'static Encrypting> {
    static SERVER: OnceLock<Option<Encrypting>> = OnceLock::new();
    let made = || {
        let (issuer, trusted) = authority();
        let key = KeyPair::generate().unwrap();
        // It is this address, and no name.
        let own = CertificateParams::new(vec!["127.0.0.1".to_owned()]).unwrap();
        let certificate = own.signed_by(&key, &issuer).unwrap().pem();
        let own = Certificate { certificate, key: key.serialize_pem() };
        let server = encrypting_server(&own)?;
        let write = |name: &str, text: String| {
            let path = server.folder.join(name);
            fs::write(&path, text).unwrap();
            path
        };
        let (trusted, other) = (write("trusted.pem", trusted), write("other.pem", authority().1));
        Some(Encrypting { server, trusted, other })
    };
    SERVER.get_or_init(made).as_ref()
}

/// Whether the connections to a database are encrypted.
fn encrypted(server: &Server, database: &str) -> Vec<bool> {
    let query = "SELECT s.ssl FROM pg_stat_ssl s JOIN pg_stat_activity a USING (pid) \
                 WHERE a.datname = $1 AND a.application_name = 'tectum'";
    let rows = server.connect("postgres").unwrap().query(query, &[&database]).unwrap();
    rows.iter().map(|row| row.get(0)).collect()
}

#[rstest]
#[case("sslmode=disable", false)]
#[case("sslmode=require&sslrootcert=TRUSTED", true)]
#[case("sslmode=verify-full&sslrootcert=TRUSTED", true)]
#[case("sslrootcert=TRUSTED", true)]
fn a_connection_is_encrypted_as_the_url_says(#[case] how: &str, #[case] expected: bool) {
    let Some(Encrypting { server, trusted, .. }) = encrypting() else { return };
    let url = server.database();
    let how = how.replace("TRUSTED", &trusted.display().to_string());
    let store = PostgresStore::open_or_make(&format!("{url}?{how}")).unwrap();
    let database = url.rsplit('/').next().unwrap();
    assert_eq!(encrypted(server, database), [expected]);
    drop(store);
}

#[rstest]
#[case::whom_nobody_trusted_vouches_for("127.0.0.1", "sslmode=verify-full&sslrootcert=OTHER")]
#[case::whom_the_system_does_not_know("127.0.0.1", "sslmode=require")]
#[case::though_encryption_is_only_preferred("127.0.0.1", "sslmode=prefer")]
#[case::who_is_called_otherwise("localhost", "sslmode=verify-full&sslrootcert=TRUSTED")]
fn a_server_that_does_not_say_who_it_is_is_told_nothing(#[case] host: &str, #[case] how: &str) {
    let Some(Encrypting { server, trusted, other }) = encrypting() else { return };
    let how = how
        .replace("TRUSTED", &trusted.display().to_string())
        .replace("OTHER", &other.display().to_string());
    let url = format!("postgres://tectum:secret@{host}:{}/postgres?{how}", server.port);
    let error = PostgresStore::open(&url).unwrap_err();
    assert!(matches!(error, StoreError::Database { doing: "connect to", .. }), "{error:?}");
    let said = told(&error);
    assert!(said.contains("certificate") && !said.contains("secret"), "{said}");
}

#[rstest]
fn what_must_be_encrypted_does_not_go_to_a_server_that_cannot() {
    let Some(server) = server::server() else { return };
    let url = format!("{}?sslmode=require", server.database());
    let said = told(&PostgresStore::open(&url).unwrap_err());
    assert!(said.contains("TLS"), "{said}");
}

/// An error with what it is because of.
fn told(error: &dyn std::error::Error) -> String {
    let mut said = error.to_string();
    let mut cause = error.source();
    while let Some(own) = cause {
        said = format!("{said}: {own}");
        cause = own.source();
    }
    said
}
