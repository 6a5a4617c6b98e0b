"""What the page weighs and how long its modules are, beside what they were as a few large closures and all of Bulma."""

import gzip
from pathlib import Path

ASSETS = Path(__file__).parent.parent / "crates/veil-server/assets"
# Measured by the same rules before the scripts were taken apart and Bulma was built from its parts.
BEFORE = {"modules": 40, "longest": 554, "over": 8, "scripts": (353, 120), "bulma": (556, 53), "own": (30, 6)}


def weights(files):
    """Kilobytes as they are, and packed one by one as they are sent."""
    texts = [file.read_bytes() for file in files]
    return tuple(round(sum(map(len, some)) / 1e3) for some in (texts, [gzip.compress(text, 9) for text in texts]))


def main():
    scripts = [file for file in ASSETS.rglob("*.js") if "vendor" not in file.parts]
    lines = [file.read_text().count("\n") for file in scripts]
    now = {
        "modules": len(scripts),
        "longest": max(lines),
        "over": sum(count > 300 for count in lines),
        "scripts": weights(scripts),
        "bulma": weights([ASSETS / "vendor/bulma.css"]),
        "own": weights([ASSETS / "veil.css"]),
    }
    rows = [
        ("modules of script", "modules", ""),
        ("lines of the longest", "longest", "300"),
        ("modules over 300 lines", "over", "none"),
        ("scripts with their comments, packed", "scripts", ""),
        ("Bulma, packed", "bulma", "150 kB"),
        ("styles of our own, packed", "own", ""),
    ]
    print("| what | before | now | to be at most |\n|---|---|---|---|")
    for words, key, most in rows:
        told = [f"{of[key][0]} kB, {of[key][1]} kB" if isinstance(of[key], tuple) else str(of[key]) for of in (BEFORE, now)]
        print(f"| {words} | {told[0]} | {told[1]} | {most} |")


main()
