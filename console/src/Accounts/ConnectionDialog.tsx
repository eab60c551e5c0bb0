import { Checkbox, FileInput, PasswordInput, Select, Text, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { api, type Connection, inWorkspace, take, upload } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { NumberField } from "../ui/NumberField";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { isRead } from "./connectionWords";

const path = "/api/v1/workspaces/{workspace}/connections";

const types = [
  { value: "file", label: "A file: LDIF, CSV or XLSX" },
  { value: "ldap", label: "A directory (LDAP)" },
  { value: "scim", label: "An application that speaks SCIM" },
  { value: "postgres", label: "A PostgreSQL server" },
  { value: "webhook", label: "Anything that takes signed webhooks" },
];
const addressHelp: Record<string, string> = {
  ldap: "ldaps://HOST, or ldap://HOST where it offers StartTLS",
  scim: "https://HOST/PATH, without /Users",
  postgres: "postgres://HOST/DATABASE, a database in which the script was run",
  webhook: "https://HOST/PATH",
};
const secretWords: Record<string, string> = {
  ldap: "Its password",
  scim: "The bearer token",
  postgres: "Its password",
  webhook: "The secret that what it is told is signed with, 24 signs at least",
};
const newcomers = [
  { value: "invite", label: "are invited" },
  { value: "add", label: "get an account of the workspace, at a proved domain" },
  { value: "nothing", label: "are left alone" },
];
const whose = [
  { value: "filled", label: "ours, if any" },
  { value: "theirs", label: "theirs" },
  { value: "ours", label: "ours, even none" },
];
const fields = ["name", "organisation", "title", "department", "manager", "country"] as const;

/** Adds a connection, or says anew how it is read. */
export function ConnectionDialog({ connection, onClose }: { connection?: Connection; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const navigate = useNavigate();
  const presets = useQuery({
    queryKey: [workspace, "presets"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/presets", inWorkspace(workspace))),
  });
  const initial = {
    name: connection?.name ?? "",
    type: connection?.type ?? "file",
    file: null as File | null,
    url: connection?.type === "file" ? "" : (connection?.place ?? ""),
    base: connection?.base ?? "",
    filter: connection?.filter ?? "",
    signInAs: connection?.signInAs ?? "",
    secret: "",
    certificate: "",
    allowPrivate: false,
    newcomers: connection?.newcomers ?? "invite",
    preset: connection?.defaults.preset ?? "",
    everyHours: connection?.everyHours ?? 0,
    floor: connection?.floor ?? 10,
    wins: Object.fromEntries(fields.map((field) => [field, connection?.wins[field] ?? "filled"])),
  };
  const save = async (values: typeof initial) => {
    const isFile = values.type === "file";
    const body = {
      name: values.name,
      type: values.type,
      url: isFile ? null : values.url,
      base: values.base || null,
      filter: values.filter || null,
      signInAs: values.signInAs || null,
      secret: values.secret || null,
      certificate: values.certificate || null,
      ...(values.allowPrivate && { allowPrivate: true }),
      newcomers: values.newcomers,
      defaults: {
        kind: null,
        role: null,
        from: null,
        until: null,
        message: null,
        language: null,
        answerDays: null,
        organisation: null,
        host: null,
        ...connection?.defaults,
        preset: values.preset || null,
      },
      wins: values.wins,
      everyHours: isFile || !isRead(values.type) ? 0 : values.everyHours,
      floor: values.floor,
    };
    if (connection)
      return take(
        api.PUT(`${path}/{connection}`, {
          params: { path: { workspace, connection: connection.id }, header: { "If-Match": "*" } },
          body,
        }),
      );
    const added = await take(api.POST(path, { ...inWorkspace(workspace), body }));
    if (values.file)
      await upload(`/api/v1/workspaces/${workspace}/connections/${added.id}/file`, { file: values.file });
    return added;
  };
  return (
    <FormDialog
      title={connection ? `Change ${connection.name}` : "Add a connection"}
      word={connection ? "Save it" : "Add it"}
      initial={initial}
      save={save}
      said={connection ? "It is changed." : "It is added; nobody here is changed by it."}
      onClose={onClose}
      onDone={(done) => {
        if (!connection)
          navigate({
            to: isRead(done.type)
              ? "/w/$workspace/accounts/connections/$id"
              : "/w/$workspace/accounts/connections/$id/access",
            params: { workspace, id: done.id },
          });
      }}
    >
      {(form) => (
        <>
          <TextInput
            label="Name"
            description="What people know it by"
            required
            data-autofocus
            {...form.getInputProps("name")}
          />
          {!connection && (
            <Select label="What it is" data={types} allowDeselect={false} {...form.getInputProps("type")} />
          )}
          {form.values.type === "file" && !connection && (
            <FileInput label="The file" accept=".ldif,.csv,.xlsx,.txt" {...form.getInputProps("file")} />
          )}
          {form.values.type !== "file" && (
            <>
              <TextInput
                label="Address"
                description={addressHelp[form.values.type]}
                required
                {...form.getInputProps("url")}
              />
              {form.values.type === "ldap" && (
                <>
                  <TextInput label="Below which entry people are" {...form.getInputProps("base")} />
                  <TextInput label="The entry to sign in with" {...form.getInputProps("signInAs")} />
                </>
              )}
              {form.values.type === "postgres" && (
                <TextInput
                  label="The login"
                  placeholder="come_aboard"
                  description="A superuser runs the script first: aboard connections script"
                  {...form.getInputProps("signInAs")}
                />
              )}
              <PasswordInput
                label={secretWords[form.values.type]}
                description={connection?.hasSecret ? "Empty for the one there is" : undefined}
                autoComplete="off"
                {...form.getInputProps("secret")}
              />
              {isRead(form.values.type) && (
                <TextInput
                  label="Filter"
                  description="Which entries are people; empty for the usual"
                  {...form.getInputProps("filter")}
                />
              )}
              <Textarea
                label="Certificates (PEM) of the authority that vouches for it"
                description="Where that is no public one"
                autosize
                maxRows={4}
                {...form.getInputProps("certificate")}
              />
              {isRead(form.values.type) && (
                <NumberField
                  label="Read again after so many hours"
                  description="0 for by hand only"
                  max={720}
                  {...form.getInputProps("everyHours")}
                />
              )}
              <Checkbox
                label="An address of this network is meant; the operator has to allow it, too"
                {...form.getInputProps("allowPrivate", { type: "checkbox" })}
              />
            </>
          )}
          {isRead(form.values.type) && (
            <>
              <Select
                label="Those who are new"
                data={newcomers}
                allowDeselect={false}
                {...form.getInputProps("newcomers")}
              />
              {form.values.newcomers === "invite" && (
                <Select
                  label="By the preset"
                  data={(presets.data?.items ?? []).map((one) => one.name)}
                  clearable
                  {...form.getInputProps("preset")}
                />
              )}
              <fieldset className="plain-set">
                <legend>Whose value wins where both have one</legend>
                <div className="beside">
                  {fields.map((field) => (
                    <Select
                      key={field}
                      label={field}
                      data={whose}
                      allowDeselect={false}
                      {...form.getInputProps(`wins.${field}`)}
                    />
                  ))}
                </div>
                <Text size="sm" className="soft">
                  What somebody may do is never changed by it: whoever belongs to an organisation here goes on
                  belonging to it.
                </Text>
              </fieldset>
              <NumberField
                label="How many of a hundred may be gone at once"
                description="When more are, nothing is believed."
                max={100}
                {...form.getInputProps("floor")}
              />
            </>
          )}
        </>
      )}
    </FormDialog>
  );
}
