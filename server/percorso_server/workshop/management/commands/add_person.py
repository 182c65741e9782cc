"""Adds a person who can sign in, and their shop if it is new."""

from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from percorso_server.workshop.management.asking import asked_password, refusal
from percorso_server.workshop.models import Person, Shop


class Command(BaseCommand):
    """Ask for shop, name and password; the password is never an argument, so it stays out of the shell's history."""

    help = "Add a person who can sign in"

    def handle(self, *args: Any, **options: Any) -> None:
        """Ask and write."""
        shop_name, username = input("Shop: ").strip(), input("Sign-in name: ").strip()
        if not shop_name or not username:
            raise CommandError("the shop and the sign-in name must not be empty")
        shop = Shop.objects.filter(name=shop_name).first() or Shop(name=shop_name)
        person = Person(username=username, shop=shop)
        try:
            shop.clean_fields()
            person.full_clean(exclude=["password", "shop"])
            person.set_password(asked_password(person))
        except ValidationError as error:
            raise CommandError(refusal(error)) from error
        with transaction.atomic():
            shop.save()
            person.save()
        self.stdout.write(f"{username} of {shop_name} can sign in")
