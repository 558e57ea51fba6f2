from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from tinfork.web.jobs.models import Job
from tinfork.web.jobs.working import work


class Command(BaseCommand):
    help = "Does the long work of a queue, until it is told to end."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("queue", choices=Job.Queue.values)

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        work(options["queue"])
