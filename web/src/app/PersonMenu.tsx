/** Who is signed in, and the way out. */
import { ActionIcon, Menu } from "@mantine/core";
import { IconUser } from "@tabler/icons-react";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { leave, tellOthers } from "../api/person";
import { useSession } from "../api/queries";
import { forgetAllBut } from "../offline/kept";
import { useSaving } from "../saving/store";

export function PersonMenu() {
  const session = useSession().data;
  const { waiting } = useSaving();
  const client = useQueryClient();
  async function signOut() {
    await answer(api.DELETE("/api/session"));
    tellOthers();
    client.clear();
    await forgetAllBut("");
    leave();
  }
  return (
    <Menu>
      <Menu.Target>
        <ActionIcon variant="subtle" size="lg" aria-label="You">
          <IconUser size={20} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>
          {session?.person}, {session?.shop}
        </Menu.Label>
        <Menu.Item component={Link} to="/house-rules">
          House rules
        </Menu.Item>
        <Menu.Item onClick={signOut} disabled={waiting > 0}>
          Sign out
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
