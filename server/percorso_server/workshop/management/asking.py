"""What the commands about people ask, and how they say what was wrong with it."""

from getpass import getpass

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import CommandError

from percorso_server.workshop.models import Person

CALLED = {"name": "the shop", "username": "the sign-in name"}


def asked_password(person: Person) -> str:
    """A password for somebody, typed unseen. Raises ValidationError where it is too easy to guess."""
    password = getpass("Password: ")
    validate_password(password, person)
    return password


def person_called(username: str) -> Person:
    """Somebody who was added. Raises CommandError."""
    person = Person.objects.filter(username=username).first()
    if person is None:
        raise CommandError(f"nobody is called {username}")
    return person


def refusal(error: ValidationError) -> str:
    """What was wrong, and with which answer."""
    if not hasattr(error, "error_dict"):
        return " ".join(error.messages)
    return " ".join(f"{CALLED.get(name, name)}: {' '.join(said)}" for name, said in error.message_dict.items())
