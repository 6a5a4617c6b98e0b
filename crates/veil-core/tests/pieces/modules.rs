//! Whether modules can be understood by themselves: no circle of them has more than five files, in any crate.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use syn::visit::{Visit, visit_path};
use syn::{ItemMod, ItemUse, UseTree, Visibility};

/// A module by the names on the way to it from its crate's root.
type Name = Vec<String>;

/// What a file names.
#[derive(Default)]
struct Named {
    paths: Vec<Name>,
    /// What it hands on from elsewhere, by its name.
    handed_on: BTreeMap<String, Name>,
}

impl Named {
    fn add_use(&mut self, tree: &UseTree, before: &[String], is_handed_on: bool) {
        let with = |name: &str| [before, &[name.to_owned()]].concat();
        match tree {
            UseTree::Path(path) => self.add_use(&path.tree, &with(&path.ident.to_string()), is_handed_on),
            UseTree::Group(group) => {
                group.items.iter().for_each(|item| self.add_use(item, before, is_handed_on));
            }
            UseTree::Name(name) => self.add(with(&name.ident.to_string()), &name.ident, is_handed_on),
            UseTree::Rename(name) => self.add(with(&name.ident.to_string()), &name.rename, is_handed_on),
            UseTree::Glob(_) => self.paths.push(before.to_vec()),
        }
    }

    fn add(&mut self, path: Name, known_as: &syn::Ident, is_handed_on: bool) {
        if is_handed_on {
            self.handed_on.insert(known_as.to_string(), path.clone());
        }
        self.paths.push(path);
    }
}

impl<'ast> Visit<'ast> for Named {
    fn visit_item_use(&mut self, item: &'ast ItemUse) {
        self.add_use(&item.tree, &[], !matches!(item.vis, Visibility::Inherited));
    }

    fn visit_path(&mut self, path: &'ast syn::Path) {
        self.paths.push(path.segments.iter().map(|segment| segment.ident.to_string()).collect());
        visit_path(self, path);
    }

    /// Who may see it is not what it stands on.
    fn visit_visibility(&mut self, _: &'ast Visibility) {}

    /// A module inside a file is no file.
    fn visit_item_mod(&mut self, _: &'ast ItemMod) {}
}

fn read(folder: &Path, of: &Name, files: &mut BTreeMap<Name, Named>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let stem = path.file_stem().unwrap().to_string_lossy().into_owned();
        let own = if ["mod", "lib", "main"].contains(&stem.as_str()) {
            of.clone()
        } else {
            [of.as_slice(), &[stem]].concat()
        };
        if path.is_dir() {
            read(&path, &own, files);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            let text = std::fs::read_to_string(&path).unwrap();
            let mut named = Named::default();
            named.visit_file(&syn::parse_file(&text).unwrap());
            files.insert(own, named);
        }
    }
}

/// Which module a path leads to that stands in another one; none where it leads out of the crate.
fn module_of(files: &BTreeMap<Name, Named>, from: &Name, path: &[String], most_steps: usize) -> Option<Name> {
    let mut at = match path.first()?.as_str() {
        "crate" => Vec::new(),
        "self" => from.clone(),
        "super" => from[..from.len().checked_sub(1)?].to_vec(),
        child => {
            let child = [from.as_slice(), &[child.to_owned()]].concat();
            files.contains_key(&child).then_some(child)?
        }
    };
    for (number, name) in path.iter().enumerate().skip(1) {
        let next = [at.as_slice(), std::slice::from_ref(name)].concat();
        if name == "super" {
            at.pop()?;
        } else if files.contains_key(&next) {
            at = next;
        } else {
            let handed_on = files.get(&at)?.handed_on.get(name).filter(|_| most_steps > 0);
            let further = handed_on.map(|path_on| [path_on.as_slice(), &path[number + 1..]].concat());
            let led = further.and_then(|further| module_of(files, &at, &further, most_steps - 1));
            return Some(led.unwrap_or(at));
        }
    }
    Some(at)
}

/// All that a module leads to.
fn reached<'a>(leads: &'a BTreeMap<&Name, BTreeSet<Name>>, from: &'a Name) -> BTreeSet<&'a Name> {
    let (mut seen, mut open) = (BTreeSet::new(), vec![from]);
    while let Some(at) = open.pop() {
        let next = leads.get(at).into_iter().flatten();
        open.extend(next.filter(|next| seen.insert(*next)));
    }
    seen
}

/// A rule of this project, so that a file can be read with what it stands on and without what stands on it.
#[test]
fn no_circle_of_modules_has_more_than_five_files() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    for one in std::fs::read_dir(crates).unwrap() {
        let mut files = BTreeMap::new();
        read(&one.unwrap().path().join("src"), &Vec::new(), &mut files);
        let leads: BTreeMap<&Name, BTreeSet<Name>> = files
            .iter()
            .map(|(from, named)| {
                let all = named.paths.iter().filter_map(|path| module_of(&files, from, path, 6));
                // The root names all of its modules.
                (from, all.filter(|to| to != from && !to.is_empty()).collect())
            })
            .collect();
        let all: BTreeMap<&Name, BTreeSet<&Name>> =
            leads.keys().map(|from| (*from, reached(&leads, from))).collect();
        for (from, there) in &all {
            let circle: Vec<_> = there.iter().filter(|to| all[**to].contains(from)).collect();
            assert!(circle.len() <= 5, "{circle:?}");
        }
    }
}
