//! No file of a crate imports another that imports it in turn, whatever re-exports lie between them.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

use syn::visit::Visit;
use syn::{Attribute, File, Item, ItemMod, ItemUse, UseTree, Visibility};

/// A module by its path in the crate: `["kinds", "sweep"]`; the crate itself is empty.
type Module = Vec<String>;

/// The files of a crate by module, with what each imports and what each hands on under which name.
#[derive(Default)]
struct Crate {
    imports: BTreeMap<Module, Vec<Vec<String>>>,
    exports: BTreeMap<Module, BTreeMap<String, Vec<String>>>,
}

impl Crate {
    fn read(source: &Path) -> Self {
        let mut read = Self::default();
        let mut folders = vec![source.to_path_buf()];
        while let Some(folder) = folders.pop() {
            for entry in fs::read_dir(&folder).expect("a folder of sources").flatten() {
                let path = entry.path();
                if path.is_dir() {
                    folders.extend((!path.ends_with("tests")).then_some(path));
                } else if path.extension().is_some_and(|ending| ending == "rs") {
                    read.take(&path, source);
                }
            }
        }
        read
    }

    fn take(&mut self, path: &Path, source: &Path) {
        let module = module_of(path.strip_prefix(source).expect("a file of the crate"));
        let text = fs::read_to_string(path).expect("a source file");
        self.take_text(module, &text);
    }

    fn take_text(&mut self, module: Module, text: &str) {
        let file: File = syn::parse_file(text).expect("it compiles");
        let mut paths = Paths { module: &module, imports: Vec::new(), exports: BTreeMap::new() };
        paths.visit_file(&file);
        let Paths { imports, exports, .. } = paths;
        self.imports.insert(module.clone(), imports);
        self.exports.insert(module, exports);
    }

    /// The file that a path of the crate leads to: the longest module on it, and from there through re-exports.
    fn home(&self, path: &[String], hops: usize) -> Option<Module> {
        let (module, rest) = (0..=path.len())
            .rev()
            .map(|length| path.split_at(length))
            .find(|(module, _)| self.imports.contains_key(*module))?;
        let handed_on = rest.first().and_then(|name| self.exports[module].get(name));
        match handed_on {
            Some(target) if hops > 0 && target != path => {
                let further: Vec<String> = target.iter().chain(&rest[1..]).cloned().collect();
                self.home(&further, hops - 1)
            }
            _ => Some(module.to_vec()),
        }
    }

    /// Which file imports which; the crate's root, which lists its modules, is left out.
    fn arrows(&self) -> BTreeMap<Module, BTreeSet<Module>> {
        let mut arrows: BTreeMap<Module, BTreeSet<Module>> = BTreeMap::new();
        for (module, imports) in self.imports.iter().filter(|(module, _)| !module.is_empty()) {
            let targets = imports.iter().filter_map(|path| self.home(path, 8));
            let others = targets.filter(|target| target != module && !target.is_empty());
            arrows.entry(module.clone()).or_default().extend(others);
        }
        arrows
    }

    /// Files that lead back to themselves, each with those of them that it imports.
    fn in_circles(&self) -> Vec<String> {
        let arrows = self.arrows();
        let leads_back = |start: &&Module| {
            let (mut seen, mut ahead) = (BTreeSet::new(), vec![*start]);
            while let Some(module) = ahead.pop() {
                for next in arrows.get(module).into_iter().flatten() {
                    if next == *start {
                        return true;
                    }
                    if seen.insert(next) {
                        ahead.push(next);
                    }
                }
            }
            false
        };
        let in_circles: Vec<&Module> = arrows.keys().filter(leads_back).collect();
        let next = |module: &&Module| {
            let others = arrows[*module].iter().filter(|other| in_circles.contains(other));
            format!("{} -> {}", module.join("/"), others.map(|other| other.join("/")).collect::<Vec<_>>().join(", "))
        };
        in_circles.iter().map(next).collect()
    }
}

/// Collects the paths of a file, absolute in its crate.
struct Paths<'a> {
    module: &'a Module,
    imports: Vec<Vec<String>>,
    exports: BTreeMap<String, Vec<String>>,
}

impl Paths<'_> {
    /// A path from the crate's root, as if it did not lead out of the crate: one that does ends in this file.
    fn absolute(&self, path: &[String]) -> Vec<String> {
        match path.first().map(String::as_str) {
            Some("crate") => path[1..].to_vec(),
            Some("self") => [self.module.as_slice(), &path[1..]].concat(),
            Some("super") => {
                let up = path.iter().take_while(|part| *part == "super").count();
                let above = &self.module[..self.module.len().saturating_sub(up)];
                [above, &path[up..]].concat()
            }
            _ => [self.module.as_slice(), path].concat(),
        }
    }
}

impl<'ast> Visit<'ast> for Paths<'_> {
    /// What is only handed on is no import: whoever uses it is followed to where it comes from.
    fn visit_item_use(&mut self, item: &'ast ItemUse) {
        let mut leaves = Vec::new();
        leaves_of(&item.tree, &mut Vec::new(), &mut leaves);
        for (name, path) in leaves {
            if !matches!(item.vis, Visibility::Inherited) {
                self.exports.insert(name, self.absolute(&path));
            } else if leads_away(&path) {
                self.imports.push(self.absolute(&path));
            }
        }
    }

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let parts: Vec<String> = path.segments.iter().map(|part| part.ident.to_string()).collect();
        if leads_away(&parts) {
            self.imports.push(self.absolute(&parts));
        }
        syn::visit::visit_path(self, path);
    }

    /// `pub(in crate::kinds)` imports nothing.
    fn visit_visibility(&mut self, _visibility: &'ast Visibility) {}

    /// Tests may see whatever they test.
    fn visit_item(&mut self, item: &'ast Item) {
        let tests = |module: &ItemMod| module.attrs.iter().any(is_test);
        if !matches!(item, Item::Mod(module) if tests(module)) {
            syn::visit::visit_item(self, item);
        }
    }
}

/// Whether a path says where it begins. Others name something of the file, of another crate, or of the files below: the
/// head of a folder may use its own files, and they what it defines.
fn leads_away(path: &[String]) -> bool {
    path.first().is_some_and(|first| ["crate", "self", "super"].contains(&first.as_str()))
}

fn is_test(attribute: &Attribute) -> bool {
    attribute.path().is_ident("cfg") && attribute.parse_args::<syn::Ident>().is_ok_and(|name| name == "test")
}

/// The leaves of a use tree, each with the name that it has from here on.
fn leaves_of(tree: &UseTree, prefix: &mut Vec<String>, leaves: &mut Vec<(String, Vec<String>)>) {
    let with = |last: &syn::Ident, prefix: &[String]| [prefix, &[last.to_string()]].concat();
    match tree {
        UseTree::Path(path) => {
            prefix.push(path.ident.to_string());
            leaves_of(&path.tree, prefix, leaves);
            prefix.pop();
        }
        UseTree::Name(name) if name.ident == "self" => {
            leaves.push((prefix.last().cloned().unwrap_or_default(), prefix.clone()));
        }
        UseTree::Name(name) => leaves.push((name.ident.to_string(), with(&name.ident, prefix))),
        UseTree::Rename(rename) => leaves.push((rename.rename.to_string(), with(&rename.ident, prefix))),
        UseTree::Glob(_) => leaves.push(("*".into(), prefix.clone())),
        UseTree::Group(group) => group.items.iter().for_each(|tree| leaves_of(tree, prefix, leaves)),
    }
}

fn module_of(path: &Path) -> Module {
    let mut module: Module = path.with_extension("").iter().map(|part| part.to_string_lossy().into_owned()).collect();
    if module.last().is_some_and(|last| ["mod", "lib", "main"].contains(&last.as_str())) {
        module.pop();
    }
    module
}

fn crates() -> Vec<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).parent().expect("the folder of all crates");
    let mut all: Vec<PathBuf> = fs::read_dir(folder).expect("crates").flatten().map(|entry| entry.path()).collect();
    all.retain(|path| path.join("src").is_dir());
    all.sort();
    all
}

#[test]
fn no_file_imports_itself_through_others() {
    let circles: Vec<String> = crates()
        .iter()
        .flat_map(|path| {
            let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            let found = Crate::read(&path.join("src")).in_circles();
            found.into_iter().map(move |module| format!("{name}/src/{module}"))
        })
        .collect();
    assert_eq!(circles, Vec::<String>::new(), "files in a circle of imports");
}

#[test]
fn a_circle_is_seen_through_re_exports_and_paths_in_code() {
    let of = |files: &[(&str, &str)]| {
        let mut small = Crate::default();
        for (module, text) in files {
            small.take_text(module_of(Path::new(module)), text);
        }
        small.in_circles()
    };
    let root = ("lib.rs", "mod a; mod b; pub use a::A; pub use b::{B as Other, helper};");
    let sees_b = ("a.rs", "use crate::Other; pub struct A(Other);");
    assert_eq!(
        of(&[root, sees_b, ("b.rs", "pub struct B; pub fn helper() -> u8 { crate::A::size() }")]),
        ["a -> b", "b -> a"]
    );
    assert_eq!(of(&[root, sees_b, ("b.rs", "pub struct B; #[cfg(test)] mod tests { use crate::A; }")]), [""; 0]);
    let folder = ("kinds/mod.rs", "mod one; pub(crate) use one::One; pub(crate) struct All(One);");
    assert_eq!(of(&[folder, ("kinds/one.rs", "pub(in crate::kinds) struct One;")]), [""; 0]);
    let other = ("kinds/other.rs", "use super::One; pub(crate) struct Other;");
    assert_eq!(
        of(&[folder, ("kinds/one.rs", "use super::other::Other;"), other]),
        ["kinds/one -> kinds/other", "kinds/other -> kinds/one"]
    );
}
