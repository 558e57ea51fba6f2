import pytest


def pytest_collection_modifyitems(items):
    """Tests of one browser file share one running application, so one worker runs them."""
    for item in items:
        if "/browser/" in str(item.path):
            item.add_marker(pytest.mark.xdist_group("browser"))
