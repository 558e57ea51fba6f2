from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from tinfork.core.errors import TinForkError
from tinfork.web.upkeep import backup


class Command(BaseCommand):
    help = "Brings a backup back to where nothing is."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, help="what script/backup wrote")

    def handle(self, *args: Any, **options: Any) -> None:
        """Bring it back, once all of it was found to be what it was."""
        try:
            count = backup.restore(options["file"])
        except (TinForkError, OSError) as amiss:
            raise CommandError(str(amiss)) from amiss
        self.stdout.write(f"The database and {count} files are back.")
