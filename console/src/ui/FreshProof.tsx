import { Button, Group, PasswordInput, Text } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../api";

/** Shows anew, with the password or a code, that the account is one's own; then the step can be repeated. */
export function FreshProof() {
  const [shown, setShown] = useState("");
  // Six digits are no password: those have ten characters at least.
  const body = /^\d{6}$/.test(shown) ? { code: shown } : { password: shown };
  const prove = useMutation({ mutationFn: () => take(api.POST("/api/v1/me/proof", { body })) });
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
          label="Your password, or a code of your second step"
          autoComplete="current-password"
          maw={340}
          value={shown}
          onChange={(event) => setShown(event.currentTarget.value)}
          error={prove.error?.message}
        />
        <Button type="submit" loading={prove.isPending} disabled={!shown}>
          Show that it is you
        </Button>
      </Group>
    </form>
  );
}
