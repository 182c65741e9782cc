"""The door: who gets in, who is kept out, and what the answers reveal."""

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
