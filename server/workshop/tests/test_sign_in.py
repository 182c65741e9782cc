"""The door: who gets in, who is kept out, and what the answers reveal."""

from io import StringIO
from unittest.mock import patch

from django.core.management import CommandError, call_command
from django.test import Client, TestCase, override_settings

from workshop.models import Person, Shop

SESSION = "/api/session"


class SignIn(TestCase):
    def setUp(self) -> None:
        shop = Shop.objects.create(name="Officina di prova")
        Person.objects.create_user("prova", password="una parola lunga", shop=shop)

    def _try(self, password: str, client: Client | None = None) -> int:
        body = {"username": "prova", "password": password}
        return (client or self.client).post(SESSION, body, content_type="application/json").status_code

    def test_in_and_out(self) -> None:
        self.assertEqual(self._try("una parola lunga"), 200)
        self.assertEqual(self.client.get(SESSION).json()["shop"], "Officina di prova")
        self.client.delete(SESSION)
        self.assertIsNone(self.client.get(SESSION).json()["person"])

    def test_five_wrong_tries_close_the_door_even_to_the_right_word(self) -> None:
        answers = [self._try("sbagliata") for _ in range(5)]
        self.assertEqual(answers[:4], [401] * 4)
        self.assertEqual(self._try("una parola lunga"), 429)

    def test_a_forged_form_does_not_sign_anybody_in(self) -> None:
        self.assertEqual(self._try("una parola lunga", Client(enforce_csrf_checks=True)), 403)

    def test_the_demo_sign_in_is_shown_in_demo_mode_only(self) -> None:
        self.assertIsNone(self.client.get(SESSION).json()["demo"])
        with override_settings(DEMO=True):
            self.assertEqual(self.client.get(SESSION).json()["demo"]["username"], "valbruna")

    def test_health_and_headers(self) -> None:
        self.assertEqual(self.client.get("/healthz").json(), {"status": "ok", "database": "ok"})
        policy = self.client.get("/").headers["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn("unsafe", policy)

    def test_the_session_cookie_is_out_of_reach_of_scripts_and_other_sites(self) -> None:
        self._try("una parola lunga")
        cookie = self.client.cookies["sessionid"]
        self.assertTrue(cookie["httponly"])
        self.assertEqual(cookie["samesite"], "Lax")

    def test_malformed_requests_are_refused_not_crashed_on(self) -> None:
        self._try("una parola lunga")
        for body in ("", "{", "[]", "null", '{"name": 3, "vehicle": {}}', '{"name": "a", "vehicle": "b", "x": 1}'):
            with self.subTest(body):
                answer = self.client.post("/api/jobs", body, content_type="application/json")
                self.assertIn(answer.status_code, (400, 422))
        self.assertEqual(self.client.put("/api/jobs").status_code, 405)


class AddingPeople(TestCase):
    def _add(self, shop: str, name: str, password: str) -> None:
        with (
            patch("builtins.input", side_effect=[shop, name]),
            patch("workshop.management.commands.add_person.getpass", return_value=password),
        ):
            call_command("add_person", stdout=StringIO())

    def test_a_person_of_a_new_shop_can_sign_in(self) -> None:
        self._add("Officina nuova", "nuova", "una parola lunga")
        self.assertTrue(Person.objects.get(username="nuova").check_password("una parola lunga"))

    def test_weak_passwords_empty_names_and_taken_names_are_refused(self) -> None:
        self._add("Officina nuova", "nuova", "una parola lunga")
        for shop, name, password in [
            ("Officina nuova", "altra", "short"),
            ("", "altra", "una parola lunga"),
            ("Officina nuova", "nuova", "una parola lunga"),
        ]:
            with self.subTest(shop=shop, name=name), self.assertRaises(CommandError):
                self._add(shop, name, password)
        self.assertEqual(Person.objects.count(), 1)
