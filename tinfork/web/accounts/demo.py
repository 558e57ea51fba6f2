"""The demo's person, who owns The Salt Ferry. Has no usable password: the one-click entry is the only way in."""

from django.conf import settings
from django.contrib.auth.models import User

USERNAME = "demo-animator"


def demo_person() -> User | None:
    """Return the demo's person, when the demo is switched on and loaded."""
    if not settings.TINFORK_DEMO:
        return None
    return User.objects.filter(username=USERNAME, is_active=True).first()


def make_demo_person() -> User:
    """Return the demo's person, made if need be."""
    person, made = User.objects.get_or_create(
        username=USERNAME, defaults={"first_name": "Demo", "last_name": "Animator"}
    )
    if made:
        person.set_unusable_password()
        person.save()
    return person
