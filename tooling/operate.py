"""`./lash`: backup, restore, check and verify. Each says what it did; none is needed to work."""

from __future__ import annotations

import sys
from pathlib import Path

from tooling.backups import make_backup, restore_backup
from tooling.environment import CommandFailed, install, print_status, state_folder
from tooling.health import check_installation
from tooling.installation import at_database, run_python

_HELP = """./lash backup FILE     everything into one file, while people work: database, pictures, key
./lash restore FILE    bring it back into an empty place, here or on another machine
./lash check           say what is wrong with this installation
./lash verify          hold every job's record to its chain, name the first row that does not fit"""


def main(arguments: list[str]) -> int:
    """Run one command."""
    command, rest = (arguments[0], arguments[1:]) if arguments else ("", [])
    wants_file = command in ("backup", "restore")
    if command not in ("backup", "restore", "check", "verify") or len(rest) != int(wants_file):
        print_status(_HELP)
        return 2
    state_folder()
    install(for_tests=False)
    if command == "backup":
        size = make_backup(Path(rest[0]))
        print_status(f"Backup made: {rest[0]}, {size / 1e6:.1f} MB.")
        return 0
    if command == "restore":
        return _restore(Path(rest[0]))
    if command == "verify":
        with at_database() as database:
            return run_python("tooling.verify", database)
    lines = check_installation()
    print_status("\n".join(lines))
    return int(any(line.startswith("▲") for line in lines))


def _restore(file: Path) -> int:
    if not file.is_file():
        raise CommandFailed(f"{file} is no file. Name a backup that ./lash backup made.")
    print_status(restore_backup(file))
    with at_database() as database:
        code = run_python("tooling.verify", database)
    print_status("Start it with ./start." if not code else "The record does not hold: see above.")
    return code


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
