//! The web application is built into the binary. Where it has not been built yet, an empty folder stands in, so that
//! the rest compiles; the server then says what is missing.

fn main() {
    let dist = std::path::Path::new("../../web/dist");
    std::fs::create_dir_all(dist).expect("the folder web/dist can be made");
    println!("cargo::rerun-if-changed=../../web/dist");
}
