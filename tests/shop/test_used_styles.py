"""Of a style sheet only what the pages use is shipped."""

import gzip
from pathlib import Path

from django.conf import settings

from tooling.used_styles import used_styles, words_of

SHEET = """/*! a licence */
:root{--a:1px;--b:2px;--c:var(--b)}
.box{margin:var(--a)}
.card,.box .tag{padding:var(--c)}
.menu:not(.card){color:red}
@media screen{.card{top:0}.box{top:1px}}
p{margin:0}
"""
# Published limits of this project: style sheets before compression, and compressed [bytes].
MOST, MOST_COMPRESSED = 130_000, 25_000


def test_a_rule_stays_where_a_page_names_all_of_its_classes():
    kept = used_styles(SHEET, words_of(['<p class="box menu">', '<i class="tag">']))
    assert "/*! a licence */" in kept
    assert ".card" not in kept.replace(":not(.card)", "")
    assert ".box .tag{padding:var(--c)}" in kept
    assert ".menu:not(.card)" in kept
    assert "@media screen{.box{top:1px}}" in kept
    assert "p{margin:0}" in kept


def test_a_variable_stays_while_a_kept_rule_or_another_sheet_reads_it():
    kept = used_styles(SHEET, words_of(['<p class="box">']))
    assert "--a:1px" in kept
    assert "--b" not in kept
    assert "--b:2px" in used_styles(SHEET, words_of(['<p class="box">']), read_elsewhere="i{left:var(--c)}")


def test_style_sheets_and_scripts_keep_to_their_limits():
    static = Path(settings.ROOT) / "shop" / "static"
    sheets = b"".join(
        path.read_bytes() for path in sorted(static.rglob("*.css")) if path.name != "print.css"
    )
    scripts = sum(path.stat().st_size for path in static.rglob("*.js"))
    assert len(sheets) <= MOST
    assert len(gzip.compress(sheets)) <= MOST_COMPRESSED
    assert scripts <= 200_000
