"""What others call a person."""

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, User


def name_of(person: AbstractBaseUser | AnonymousUser) -> str:
    """Return a person's name as others see it; what they sign in with where they gave none."""
    full = person.get_full_name() if isinstance(person, User) else ""
    return full or person.get_username()
