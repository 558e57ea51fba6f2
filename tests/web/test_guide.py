"""The guide: every page is there, is linked from its view, and names only controls that stand on their screens."""

import html
import re
from pathlib import Path

import pytest

from tinfork.web.charts import actions as charts
from tinfork.web.pages.guide import PAGES, TASKS, VIEWS

WEB = Path(__file__).parents[2] / "tinfork" / "web"
TEMPLATES = WEB / "pages" / "templates" / "guide"
SCRIPTS = {"production": "start", "desk": "desk", "sound": "sound", "handover": "handover", "chart": "chart"}
"""Where the browser's half of a screen lies, that writes on it what the page has not yet."""

PARTS = {
    "changes": "following/templates/following",
    "chart": "charts/templates/charts",
    "face": "faces/templates/faces",
    "lexicon": "lexicon/templates/lexicon",
}
"""Where the templates of a screen lie that shows some of its controls only once there is something to do."""


@pytest.fixture
def screens(ferry):
    """What every screen has, as its owner gets it."""
    client, scene = ferry.client(ferry.owner), f"/scenes/{ferry.scene.pk}/"
    chart = charts.create_chart(ferry.owner, ferry.scene.production, "Paper")
    production = f"/productions/{ferry.scene.production_id}/"
    addresses = {
        "shelf": "/",
        "production": production,
        "cast": f"{production}cast-and-charts/",
        "people": f"{production}people/",
        "me": "/me/",
        "sound": scene,
        "script": f"{scene}script/",
        "desk": f"{scene}reading/",
        "acting": f"{scene}acting/",
        "sheet": f"{scene}sheet/",
        "prompter": f"{scene}prompter/",
        "rushes": f"{scene}rushes/",
        "handover": f"{scene}hand-over/",
        "changes": f"{scene}changes",
        "chart": f"/charts/{chart.pk}/",
        "face": f"/characters/{ferry.stave.character_id}/face/",
        "lexicon": f"{production}lexicon/",
    }
    found = {}
    for name, address in addresses.items():
        answer = client.get(address)
        assert answer.status_code == 200, name
        found[name] = answer.content.decode()
    return found


def text_of(name, page):
    """All that a screen says, or comes to say."""
    scripts = (WEB / "browser" / SCRIPTS[name]).rglob("*.ts") if name in SCRIPTS else ()
    templates = (WEB / PARTS[name]).glob("*.html") if name in PARTS else ()
    marked = " ".join([page, *(file.read_text() for file in templates)])
    plain = html.unescape(re.sub(r"<[^>]*>|{%.*?%}", " ", marked))
    return " ".join(" ".join([plain, *(file.read_text() for file in scripts)]).split())


def test_every_control_that_is_named_stands_on_its_screen(screens):
    seen = {name: text_of(name, page) for name, page in screens.items()}
    for slug, page in PAGES.items():
        named = [html.unescape(one) for one in re.findall(r"<b>(.*?)</b>", (TEMPLATES / f"{slug}.html").read_text())]
        own = " ".join(seen[name] for name in page.screens)
        assert named, slug
        assert not [one for one in named if one not in own], slug


def test_pages_are_shown_with_pictures_that_are_there_and_are_linked_from_their_views(ferry, screens):
    client = ferry.client(ferry.owner)
    for page in (*TASKS, *VIEWS):
        assert page.title in client.get(f"/guide/{page.slug}/").content.decode()
        assert not page.picture or (WEB.parents[1] / "docs" / "screenshots" / f"{page.picture}.png").exists()
    for view in VIEWS:
        assert f'href="/guide/{view.slug}/"' in screens[view.slug]
    assert 'href="/guide/production/"' in screens["shelf"]
    assert "/guide/two-hander/" in client.get("/guide/").content.decode()
    assert client.get("/guide/nowhere/").status_code == 404
