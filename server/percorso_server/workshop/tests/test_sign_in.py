"""The door: who gets in, who is kept out, and what the answers reveal."""

import json
import re
from datetime import timedelta
from io import StringIO
from unittest.mock import patch

from django.core.management import CommandError, call_command
from django.db.models import F
from django.test import Client, TestCase, override_settings

from percorso_server.workshop.models import Person, Shop, WrongTries

SESSION = "/api/session"


class SignIn(TestCase):
    def setUp(self) -> None:
        shop = Shop.objects.create(name="Officina di prova")
        Person.objects.create_user("prova", password="una parola lunga", shop=shop)

    def _body(self, password: str) -> dict[str, str]:
        return {"username": "prova", "password": password}

    def _try(self, password: str, client: Client | None = None) -> int:
        return (client or self.client).post(SESSION, self._body(password), content_type="application/json").status_code

    def test_in_and_out(self) -> None:
        self.assertEqual(self._try("una parola lunga"), 200)
        self.assertEqual(self.client.get(SESSION).json()["shop"], "Officina di prova")
        self.client.delete(SESSION)
        self.assertIsNone(self.client.get(SESSION).json()["person"])

    def test_after_five_wrong_tries_each_makes_the_next_wait_longer(self) -> None:
        self.assertEqual([self._try("sbagliata") for _ in range(5)], [401] * 5)
        waits = []
        for _ in range(3):
            refused = self.client.post(SESSION, self._body("una parola lunga"), content_type="application/json")
            self.assertEqual((refused.status_code, refused.headers["Content-Type"][:16]), (429, "application/json"))
            self.assertRegex(refused.json()["message"], r"too many wrong tries; wait \d+ seconds? and try again")
            waits.append(int(re.findall(r"\d+", refused.json()["message"])[0]))
            self._wait(waits[-1])
            self.assertEqual(self._try("sbagliata"), 401)
        self.assertEqual(waits, [1, 2, 4])
        self._wait(8)
        self.assertEqual(self._try("una parola lunga"), 200)
        self.assertEqual(self._try("sbagliata"), 401)  # forgiven: it starts anew

    def test_a_name_is_one_name_however_it_is_written(self) -> None:
        """The database takes names that end in spaces for the same, and compatible letters look alike."""
        said = [self._spray(f"prova{' ' * number}", f"203.0.113.{number}") for number in range(8)]
        self.assertEqual(said, [401] * 5 + [429] * 3)
        self.assertEqual(self._spray(" \uff50rova", "203.0.113.99", "una parola lunga"), 429)

    def test_nobody_is_kept_out_where_they_came_in_before(self) -> None:
        with override_settings(PROXIES=1):
            self.assertEqual(self._spray("prova", "203.0.113.1", "una parola lunga"), 200)
            for number in range(12):
                self._spray("prova", f"198.51.100.{number}")
            self.assertEqual(self._spray("prova", "203.0.113.2", "una parola lunga"), 429)
            self.assertEqual(self._spray("prova", "203.0.113.1", "una parola lunga"), 200)

    def test_strangers_are_not_told_what_the_api_has(self) -> None:
        stranger = self.client.get("/api/openapi.json")
        self.assertEqual((stranger.status_code, stranger.json()["code"]), (401, "signed-out"))
        self._try("una parola lunga")
        self.assertIn("/api/jobs", self.client.get("/api/openapi.json").json()["paths"])

    def test_many_names_from_one_address_wait_too_and_leave_others_alone(self) -> None:
        """Forty names sprayed from one place; from another place people come in as always, behind a proxy too."""
        with override_settings(PROXIES=1):
            said = [self._spray(f"nome{number}", "203.0.113.7") for number in range(40)]
            self.assertEqual((said[:20], set(said[20:])), ([401] * 20, {429}))
            self.assertEqual(self._spray("prova", "203.0.113.8", "una parola lunga"), 200)

    def test_names_that_cannot_be_are_refused(self) -> None:
        for name in ("x" * 300, "\ud800", "a\ud800b"):
            body = json.dumps({"username": name, "password": "una parola lunga"})
            answer = self.client.post(SESSION, body, content_type="application/json")
            with self.subTest(name[:3]):
                self.assertEqual((answer.status_code, answer.json()["problems"][0]["field"]), (422, ["username"]))

    def _wait(self, seconds: float) -> None:
        """Let time pass: the tries were that much longer ago."""
        WrongTries.objects.update(last_at=F("last_at") - timedelta(seconds=seconds))

    def _spray(self, name: str, address: str, password: str = "sbagliata") -> int:
        headers = {"X-Forwarded-For": f"10.9.9.9, {address}"}
        body = {"username": name, "password": password}
        return self.client.post(SESSION, body, content_type="application/json", headers=headers).status_code

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
            patch("percorso_server.workshop.management.asking.getpass", return_value=password),
        ):
            call_command("add_person", stdout=StringIO())

    def test_a_person_of_a_new_shop_can_sign_in(self) -> None:
        self._add("Officina nuova", "nuova", "una parola lunga")
        self.assertTrue(Person.objects.get(username="nuova").check_password("una parola lunga"))

    def test_weak_passwords_empty_names_and_taken_names_are_refused(self) -> None:
        self._add("Officina nuova", "nuova", "una parola lunga")
        for shop, name, password, said in [
            ("Officina nuova", "altra", "short", "too short"),
            ("Officina nuova", "8305927164", "8305927164", "similar"),
            ("Officina nuova", "altra", "8305927164", "numeric"),
            ("", "altra", "una parola lunga", "empty"),
            ("Officina nuova", "nuova", "una parola lunga", "already exists"),
            ("Officina nuova", 200 * "a", "una parola lunga", "the sign-in name: .*150"),
            (200 * "a", "altra", "una parola lunga", "the shop: .*80"),
        ]:
            with self.subTest(shop=shop, name=name), self.assertRaisesRegex(CommandError, said):
                self._add(shop, name, password)
        self.assertEqual((Person.objects.count(), Shop.objects.count()), (1, 1))

    def test_who_is_disabled_is_out_at_once_until_there_is_a_new_password(self) -> None:
        self._add("Officina nuova", "nuova", "una parola lunga")
        told = StringIO()

        def sign_in(password: str) -> int:
            body = {"username": "nuova", "password": password}
            return self.client.post(SESSION, body, content_type="application/json").status_code

        self.assertEqual(sign_in("una parola lunga"), 200)
        call_command("disable_person", "nuova", stdout=told)
        self.assertIsNone(self.client.get(SESSION).json()["person"])
        self.assertEqual(sign_in("una parola lunga"), 401)
        call_command("list_people", stdout=told)
        self.assertIn("Officina nuova: nuova, last signed in", told.getvalue())
        self.assertIn(", disabled", told.getvalue())
        with patch("percorso_server.workshop.management.asking.getpass", return_value="un'altra parola"):
            call_command("new_password", "nuova", stdout=told)
        self.assertEqual(sign_in("un'altra parola"), 200)
        with self.assertRaisesRegex(CommandError, "nobody is called"):
            call_command("disable_person", "nessuno", stdout=told)
