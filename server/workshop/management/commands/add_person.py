"""Adds a person who can sign in, and their shop if it is new."""

from getpass import getpass
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError
from django.db import IntegrityError, transaction

from workshop.models import Person, Shop


class Command(BaseCommand):
    """Ask for shop, name and password; the password is never an argument, so it stays out of the shell's history."""

    help = "Add a person who can sign in"

    def handle(self, *args: Any, **options: Any) -> None:
        """Ask and write."""
        shop_name, username = input("Shop: ").strip(), input("Sign-in name: ").strip()
        password = getpass("Password: ")
        if not shop_name or not username:
            raise CommandError("the shop and the sign-in name must not be empty")
        try:
            validate_password(password)
            with transaction.atomic():
                shop, _ = Shop.objects.get_or_create(name=shop_name)
                Person.objects.create_user(username, password=password, shop=shop)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from error
        except IntegrityError as error:
            raise CommandError(f"{username} can already sign in") from error
        self.stdout.write(f"{username} of {shop_name} can sign in")
