import { Group, Stack, Title } from "@mantine/core";
import { type ReactNode, useEffect } from "react";

/** One page of the console: its heading, what can be done from it, and its content. */
export function Page({
  title,
  actions,
  children,
}: {
  title: string;
  actions?: ReactNode;
  children: ReactNode;
}) {
  useEffect(() => {
    document.title = `${title} – Come Aboard`;
  }, [title]);
  return (
    <Stack gap="lg">
      <Group justify="space-between" align="center">
        <Title order={1} size="h2">
          {title}
        </Title>
        {actions && <Group gap="sm">{actions}</Group>}
      </Group>
      {children}
    </Stack>
  );
}
