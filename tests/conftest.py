import os
from concurrent.futures import ThreadPoolExecutor

import hypothesis
import pytest
from django.conf import settings
from django.contrib.auth.hashers import ScryptPasswordHasher
from django.db import connection

from tests.browser.application import demo_in, fresh_database, tables_in

# The browser's driver keeps an event loop in the thread the tests run in; Django would refuse the database beside it.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

# The same examples every time, so that who changed something learns what that broke; others are looked for when asked.
# No test asserts a time, and so no example has one to keep.
hypothesis.settings.register_profile("steady", derandomize=True, deadline=None)
hypothesis.settings.load_profile("default" if os.environ.get("TINFORK_EXPLORE") else "steady")


def pytest_configure():
    """Pages are made without collecting the static files first."""
    plain = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
    settings.STORAGES = settings.STORAGES | {"staticfiles": plain}
    # Guessing is as slow as is wanted elsewhere.
    ScryptPasswordHasher.work_factor = 2**4
    # Each test client would look through every file that was ever collected.
    settings.WHITENOISE_AUTOREFRESH = True


def pytest_collection_modifyitems(items):
    """Put stories in the browser, which take longest, after those that can begin before the demo is loaded, and before
    short ones, so that at the end neither process waits for the other. Where the machine is not ours they are tried
    twice; who needed it is named at the end."""
    stories = [item for item in items if item.path.parent.name == "browser"]
    others = [item for item in items if item.path.parent.name != "browser"]
    first = len(others) // 2
    if os.environ.get("CI"):
        for story in stories:
            story.add_marker(pytest.mark.flaky(reruns=1))
    items[:] = [*others[:first], *stories, *others[first:]]


def pytest_terminal_summary(terminalreporter):
    """Say why a story had to be tried twice."""
    for report in terminalreporter.getreports("rerun"):
        terminalreporter.write_sep("_", f"first try of {report.head_line}")
        terminalreporter.write_line(report.longreprtext)


@pytest.fixture(scope="session")
def shared(tmp_path_factory, worker_id):
    """A folder of all who test at the same time."""
    own = tmp_path_factory.getbasetemp()
    return own if worker_id == "master" else own.parent


@pytest.fixture(scope="session")
def django_db_keepdb():
    """The tables are there before the tests begin."""
    return True


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix, shared):
    """Who tests at the same time has a database of their own, like one whose tables were made once."""
    own = connection.settings_dict
    name = own["TEST"]["NAME"] or f"test_{own['NAME']}"
    fresh_database(name, os.environ["TINFORK_DATABASE_URL"], like=tables_in(shared))


@pytest.fixture(scope="session")
def demo_folder(shared):
    """A future of the folder with the demo, loaded once for all who test at the same time, while others are tested."""
    with ThreadPoolExecutor(1) as beside:
        yield beside.submit(demo_in, shared)


@pytest.fixture(scope="session", autouse=True)
def _demo_begins(request):
    if any("browser" in item.path.parts for item in request.session.items):
        request.getfixturevalue("demo_folder")
