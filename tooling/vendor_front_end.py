"""Copy the front end's files from npm packages into the static tree, with version and licence.

Run after changing package.json: `.venv/bin/python -m tooling.vendor_front_end`. The copies are
committed, so that a start needs no Node.
"""

from __future__ import annotations

import json
import shutil
import subprocess

from tooling.environment import ROOT, print_status
from tooling.used_styles import used_styles, words_of

TARGET = ROOT / "shop" / "static" / "vendor"
FILES = {
    "htmx.org": {"dist/htmx.min.js": "htmx.min.js"},
    "@alpinejs/csp": {"dist/cdn.min.js": "alpine-csp.min.js"},
    "bulma": {"css/bulma.min.css": "bulma.css"},
    "@fontsource/barlow": {
        f"files/barlow-latin-{weight}-normal.woff2": f"fonts/barlow-{weight}.woff2"
        for weight in (400, 500, 600)
    },
    "@fontsource/barlow-condensed": {
        f"files/barlow-condensed-latin-{weight}-normal.woff2": f"fonts/barlow-condensed-{weight}.woff2"
        for weight in (500, 600)
    },
}


def main() -> None:
    """Install the locked packages, copy what is used, and record what it is."""
    subprocess.run(["npm", "ci", "--ignore-scripts"], cwd=ROOT, check=True)
    shutil.rmtree(TARGET, ignore_errors=True)
    (TARGET / "fonts").mkdir(parents=True)
    record = []
    for package, files in FILES.items():
        folder = ROOT / "node_modules" / package
        about = json.loads((folder / "package.json").read_text())
        for source, target in files.items():
            shutil.copyfile(folder / source, TARGET / target)
        record.append(
            {
                "package": package,
                "version": about["version"],
                "licence": about["license"],
                "files": sorted(files.values()),
            }
        )
    trim()
    (TARGET / "VENDORED.json").write_text(json.dumps(record, indent=2) + "\n")
    print_status(f"Copied {sum(len(f) for f in FILES.values())} files into {TARGET.relative_to(ROOT)}")


def trim() -> None:
    """Leave of Bulma only what the pages use; run again when a page uses another part of it."""
    shop = ROOT / "shop"
    pages = [
        path.read_text(encoding="utf-8")
        for pattern in ("**/templates/**/*.html", "**/*.py", "static/lash/*.js")
        for path in sorted(shop.glob(pattern))
    ]
    own = "".join(
        path.read_text(encoding="utf-8") for path in sorted((shop / "static" / "lash").glob("*.css"))
    )
    bulma = TARGET / "bulma.css"
    whole = (ROOT / "node_modules" / "bulma" / "css" / "bulma.min.css").read_text(encoding="utf-8")
    bulma.write_text(used_styles(whole, words_of(pages), own) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
