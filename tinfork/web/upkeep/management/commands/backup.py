from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.web.upkeep import backup

MOST_COPIES = 3


class Command(BaseCommand):
    help = "Writes everything that is kept, database and files, to one file, while Tin Fork runs."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, help="where to; with --if-outdated a folder")
        parser.add_argument(
            "--if-outdated",
            action="store_true",
            help=f"only if the database will be brought up to date, and of such copies keep the last {MOST_COPIES}",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        """Write it."""
        path: Path = options["file"].absolute()
        if options["if_outdated"]:
            if not _outdated():
                return
            path.mkdir(mode=0o700, parents=True, exist_ok=True)
            for old in sorted(path.glob("before *.tar"))[: 1 - MOST_COPIES]:
                old.unlink()
            path /= f"before {timezone.now():%Y-%m-%d %H.%M.%S}.tar"
        elif not path.parent.is_dir() or path.is_dir():
            raise CommandError(f"{path} is no name for a file: give one in a folder that is there.")
        try:
            size = backup.write(path)
        except (TinForkError, OSError) as amiss:
            raise CommandError(str(amiss)) from amiss
        self.stdout.write(f"{path}: {size / 1e6:,.1f} MB. script/restore brings it back to an empty folder.")


def _outdated() -> bool:
    """Whether there is something here, and migrations are to come."""
    executor = MigrationExecutor(connection)
    targets = executor.loader.graph.leaf_nodes()
    return bool(executor.loader.applied_migrations and executor.migration_plan(targets))
