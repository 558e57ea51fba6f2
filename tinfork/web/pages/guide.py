"""The guide for those who use it: a page for each view, and one for each task."""

from dataclasses import dataclass

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render


@dataclass(frozen=True)
class GuidePage:
    """A page of the guide, in templates/guide/: slug, the name of its file and its address; screens: of which views it
    names controls, in bold; picture: what of docs/screenshots it shows, "" for nothing."""

    slug: str
    title: str
    screens: tuple[str, ...]
    picture: str = ""


TASKS = (
    GuidePage("first-scene", "From a recording to a speaking face", ("production", "desk"), "start"),
    GuidePage("two-hander", "Two people in one file", ("sound", "script")),
    GuidePage("own-drawings", "Your own drawings", ("cast", "chart", "desk")),
    GuidePage("moods", "A mood, for a passage or for good", ("chart", "desk")),
    GuidePage("clean-up", "Cleaning up by ear", ("desk",), "checks"),
    GuidePage("shooting", "At the camera", ("sheet", "prompter"), "telephone-desk"),
    GuidePage("film", "Handing a film over", ("handover",)),
)
VIEWS = (
    GuidePage("production", "Shelf and production", ("shelf", "production", "cast", "people", "me"), "board"),
    GuidePage("sound", "Sound", ("sound",), "sound"),
    GuidePage("script", "Script", ("script",), "script"),
    GuidePage("desk", "Reading desk", ("desk",), "reading-desk"),
    GuidePage("acting", "Acting", ("acting",), "acting"),
    GuidePage("sheet", "Exposure sheet", ("sheet",), "sheet"),
    GuidePage("prompter", "Prompter", ("prompter",), "prompter"),
    GuidePage("rushes", "Rushes", ("rushes",), "rushes"),
    GuidePage("handover", "Hand-over", ("handover",), "hand-over"),
    GuidePage("changes", "Changes", ("changes",), "changes"),
    GuidePage("chart", "Mouth chart", ("chart",), "chart"),
    GuidePage("face", "Face", ("face",), "face"),
    GuidePage("lexicon", "Lexicon", ("lexicon",), "lexicon"),
)
PAGES = {page.slug: page for page in (*TASKS, *VIEWS)}


def guide(request: HttpRequest, slug: str = "") -> HttpResponse:
    """Show a page of the guide, or what is in it."""
    if slug and slug not in PAGES:
        raise Http404("The guide has no such page.")
    context = {"here": PAGES.get(slug), "tasks": TASKS, "views": VIEWS}
    return render(request, f"guide/{slug or 'contents'}.html", context)
