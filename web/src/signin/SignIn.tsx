/** The way in. */
import { Button, PasswordInput, Stack, Text, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { useSession } from "../api/queries";
import { OthersWaiting } from "../app/SavingNotice";
import { useForm } from "../parts/useForm";

export function SignIn() {
  const session = useSession().data;
  const client = useQueryClient();
  const form = useForm({ username: "", password: "" });
  const enter = () =>
    form.submit(
      () => answer(api.POST("/api/session", { body: form.values })),
      () => void client.invalidateQueries(),
    );
  return (
    <main className="sign-in">
      <h1>Percorso</h1>
      <p>Plan a circuit, see where its volts go, and hold the meter against it.</p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void enter();
        }}
      >
        <Stack gap="sm">
          <TextInput
            label="Sign-in name"
            autoComplete="username"
            {...form.text("username")}
            required
            withAsterisk={false}
          />
          <PasswordInput
            label="Password"
            autoComplete="current-password"
            {...form.text("password")}
            visibilityToggleButtonProps={{ "aria-label": "Show the password" }}
            required
            withAsterisk={false}
          />
          {form.remark(["username", "password"]) && (
            <Text role="alert" className="problem">
              {form.remark(["username", "password"])}
            </Text>
          )}
          <Button type="submit" loading={form.busy}>
            Sign in
          </Button>
        </Stack>
      </form>
      <OthersWaiting person="" />
      {session?.demo && (
        <p className="quiet">
          Demo: <code>{session.demo.username}</code> with <code>{session.demo.password}</code>
        </p>
      )}
      <p className="caution-line">
        Percorso’s figures are planning aids: the vehicle maker’s data, local regulations and a qualified
        electrician’s judgement come first.
      </p>
    </main>
  );
}
