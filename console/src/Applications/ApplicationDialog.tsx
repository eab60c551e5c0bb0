import { Checkbox, MultiSelect, Select, TagsInput, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { PersonField } from "../Access/PersonField";
import { type Application, api, inWorkspace, type NewApplication, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/applications";

const duties = ["invite", "approve", "people", "access", "seats", "claims", "record", "settings"];

/** An application to be registered, or how it is to be from now on. */
export function ApplicationDialog(props: {
  application?: Application;
  onClose: () => void;
  onAdded?: (added: NewApplication) => void;
}) {
  const { application } = props;
  const { workspace } = useWorkspace();
  const resources = useQuery({
    queryKey: [workspace, "resources"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/resources", inWorkspace(workspace))),
  });
  return (
    <FormDialog
      title={application ? `Change ${application.name}` : "Register an application"}
      word={application ? "Save it" : "Register it"}
      initial={{
        name: application?.name ?? "",
        resource: application?.resource || null,
        redirects: application?.redirects ?? [],
        afterSignOut: application?.afterSignOut ?? [],
        signOutAddress: application?.signOutAddress ?? "",
        duties: application?.duties ?? [],
        actsFor: application?.actsFor ?? "",
        isPublic: application ? !application.hasSecret : false,
      }}
      save={async (values) => {
        const body = {
          ...values,
          signOutAddress: values.signOutAddress || null,
          actsFor: values.actsFor || null,
        };
        if (application) {
          await take(
            api.PUT(`${path}/{application}`, {
              params: { path: { workspace, application: application.id } },
              headers: { "If-Match": `"${application.version}"` },
              body,
            }),
          );
          return undefined;
        }
        return await take(api.POST(path, { ...inWorkspace(workspace), body }));
      }}
      onDone={(added) => added && props.onAdded?.(added)}
      onClose={props.onClose}
    >
      {(form) => (
        <>
          <TextInput
            label="Name"
            description="What people know it by."
            required
            data-autofocus
            {...form.getInputProps("name")}
          />
          <TagsInput
            label="People come back to"
            description="The addresses it takes people back at after signing in, exactly. None where nobody signs in to it."
            placeholder="https://"
            splitChars={[" "]}
            {...form.getInputProps("redirects")}
          />
          <Select
            label="It is the resource"
            description="Whoever has access to it signs in; nobody else does."
            searchable
            clearable
            data={(resources.data?.items ?? []).map((one) => one.name)}
            {...form.getInputProps("resource")}
          />
          <TextInput
            label="Told of sign-outs at"
            description="Where it takes word that somebody was signed out (Back-Channel Logout)."
            placeholder="https://"
            {...form.getInputProps("signOutAddress")}
          />
          <TagsInput
            label="After signing out, people may go to"
            placeholder="https://"
            splitChars={[" "]}
            {...form.getInputProps("afterSignOut")}
          />
          <MultiSelect
            label="Duties it may ask for"
            description="As scopes; only those you hold yourself."
            data={duties}
            {...form.getInputProps("duties")}
          />
          <PersonField
            label="Acts by itself for"
            value={form.values.actsFor}
            onChange={(address) => form.setFieldValue("actsFor", address)}
            error={form.errors.actsFor as string | undefined}
          />
          {!application && (
            <Checkbox
              label="It runs on people's own devices, where it cannot keep a secret"
              {...form.getInputProps("isPublic", { type: "checkbox" })}
            />
          )}
        </>
      )}
    </FormDialog>
  );
}
