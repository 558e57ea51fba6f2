from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.urls import reverse

from tinfork.web.accounts.first import code, nobody_yet


class Command(BaseCommand):
    help = "Prints where the first person of this installation is made, as long as there is nobody."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("address", nargs="?", default="http://127.0.0.1:8040", help="where Tin Fork answers")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the address with the code, or that somebody is there."""
        if nobody_yet():
            self.stdout.write(f"{options['address'].rstrip('/')}{reverse('first-person')}?code={code()}")
        else:
            self.stderr.write("Somebody is here already; they sign in with their name and password.")
