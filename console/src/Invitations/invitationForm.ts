import type { Invitation, InvitationRequest, Preset } from "../api";
import { dayAfter } from "../ui/words";
import { bundleOf, type GivesForm, givenBy, givesNothing } from "./Gives";

export type Form = {
  address: string;
  name: string;
  kind: string;
  gives: GivesForm;
  from: string;
  until: string;
  noEnd: boolean;
  answerDays: string;
  message: string;
  language: string;
  preset: string;
  organisation: string;
  organisationAsWritten: boolean;
  title: string;
  department: string;
  manager: string;
  country: string;
  host: string;
  note: string;
};

export const blank: Form = {
  address: "",
  name: "",
  kind: "guest",
  gives: givesNothing,
  from: "",
  until: "",
  noEnd: false,
  answerDays: "",
  message: "",
  language: "",
  preset: "",
  organisation: "",
  organisationAsWritten: false,
  title: "",
  department: "",
  manager: "",
  country: "",
  host: "",
  note: "",
};
/** The invitation a form asks for. */
export function requestOf(form: Form): InvitationRequest {
  const said = (text: string) => text || null;
  return {
    address: form.address,
    kind: form.kind,
    role: null,
    resource: null,
    gives: bundleOf(form.gives),
    name: said(form.name),
    message: said(form.message),
    from: said(form.from),
    until: said(form.until),
    noEnd: form.noEnd,
    language: said(form.language),
    answerDays: form.answerDays ? Number(form.answerDays) : null,
    preset: null,
    draft: false,
    host: said(form.host),
    givenName: null,
    familyName: null,
    organisation: said(form.organisation),
    organisationAsWritten: form.organisationAsWritten,
    title: said(form.title),
    department: said(form.department),
    manager: said(form.manager),
    country: said(form.country),
    note: said(form.note),
  };
}

/** A draft as it can be changed. */
export function formOf(draft: Invitation): Form {
  return {
    ...blank,
    address: draft.address,
    name: draft.name,
    kind: draft.kind,
    gives: givenBy(draft.gives),
    from: draft.from ?? "",
    until: draft.until ?? "",
    noEnd: draft.kind !== "staff" && !draft.until,
    answerDays: draft.answerDays ? String(draft.answerDays) : "",
    message: draft.message,
    language: draft.language,
    organisation: draft.organisation ?? "",
    organisationAsWritten: !draft.organisationId && Boolean(draft.organisation),
    title: draft.title ?? "",
    department: draft.department ?? "",
    manager: draft.manager ?? "",
    country: draft.country ?? "",
    note: draft.note ?? "",
  };
}

/** What a preset says, put into the form where it can be seen and changed. */
export function filledBy(preset: Preset, today: string): Partial<Form> {
  return {
    preset: preset.name,
    kind: preset.kind,
    gives: givenBy(preset.gives),
    until: preset.stayDays ? dayAfter(today, preset.stayDays - 1) : "",
    noEnd: !preset.stayDays,
    organisation: preset.organisation,
    message: preset.message,
    language: preset.language ?? "",
  };
}
