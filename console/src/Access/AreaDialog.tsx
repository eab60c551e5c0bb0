import { Button, Checkbox, Group, Modal, Select, Stack, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Area, api, inWorkspace, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/areas";
const levels = ["view", "contribute", "edit", "manage"];

/** Adds an area, or changes or removes one. */
export function AreaDialog({ areas, of, onClose }: { areas: string[]; of?: Area; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [form, setForm] = useState({
    name: of?.name ?? "",
    privateEntries: of?.privateEntries ?? false,
    needs: of?.needs ?? [],
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  const others = areas.filter((area) => area !== of?.name);
  const free = others.filter((area) => !form.needs.some((need) => need.area === area));
  const done = async () => {
    await queries.invalidateQueries({ queryKey: [workspace] });
    onClose();
  };
  const save = useMutation({
    mutationFn: () =>
      take(
        of
          ? api.PUT(`${path}/{area}`, {
              params: { path: { workspace, area: of.id } },
              headers: { "If-Match": `"${of.version}"` },
              body: form,
            })
          : api.POST(path, { ...inWorkspace(workspace), body: form }),
      ),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: (area: string) =>
      take(api.DELETE(`${path}/{area}`, { params: { path: { workspace, area } } })),
    onSuccess: done,
  });
  return (
    <Modal opened onClose={onClose} title={<strong>{of ? `Change ${of.name}` : "Add an area"}</strong>}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Stack>
          <TextInput
            label="Name"
            required
            data-autofocus
            value={form.name}
            onChange={(event) => set({ name: event.currentTarget.value })}
          />
          <Checkbox
            label="Entries are private: people below edit see only what they made themselves"
            checked={form.privateEntries}
            onChange={(event) => set({ privateEntries: event.currentTarget.checked })}
          />
          {form.needs.map((need) => {
            const change = (part: Partial<typeof need>) =>
              set({ needs: form.needs.map((one) => (one === need ? { ...one, ...part } : one)) });
            return (
              <Group key={need.area} align="end" wrap="nowrap">
                <Select
                  label={`Needs in ${need.area} at least`}
                  data={levels}
                  value={need.level}
                  onChange={(level) => change({ level: level ?? "view" })}
                  allowDeselect={false}
                />
                <Button
                  variant="default"
                  aria-label={`Needs nothing in ${need.area}`}
                  onClick={() => set({ needs: form.needs.filter((one) => one !== need) })}
                >
                  Leave out
                </Button>
              </Group>
            );
          })}
          {free.length > 0 && (
            <Select
              label="Needs something in"
              description="Whoever sees this area is to have at least that level there; roles that lack it are warned about."
              placeholder={form.needs.length > 0 ? "Another area" : "Nothing else"}
              data={free}
              value={null}
              onChange={(area) => area && set({ needs: [...form.needs, { area, level: "view" }] })}
            />
          )}
          <Refusal of={save.error ?? remove.error} />
          <Group justify="space-between">
            <Button type="submit" loading={save.isPending}>
              {of ? "Change" : "Add"}
            </Button>
            {of && (
              <Button
                color="alarm"
                variant="outline"
                loading={remove.isPending}
                onClick={() => remove.mutate(of.id)}
              >
                Remove the area
              </Button>
            )}
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}
