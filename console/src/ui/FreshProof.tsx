import { Button, Group, PasswordInput, Text } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../api";

/** Shows anew, with the password, that the account is one's own; then the step can be repeated. */
export function FreshProof() {
  const [password, setPassword] = useState("");
  const prove = useMutation({ mutationFn: () => take(api.POST("/api/v1/me/proof", { body: { password } })) });
  if (prove.isSuccess)
    return (
      <Text size="sm" mt="xs" role="status">
        Thank you. Repeat the step now.
      </Text>
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        // It may stand within the form whose step it is about.
        event.stopPropagation();
        prove.mutate();
      }}
    >
      <Group align="end" mt="xs">
        <PasswordInput
          label="Your password"
          autoComplete="current-password"
          w={260}
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
          error={prove.error?.message}
        />
        <Button type="submit" loading={prove.isPending} disabled={!password}>
          Show that it is you
        </Button>
      </Group>
    </form>
  );
}
