const day = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  timeZone: "UTC",
});
const shortDay = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", timeZone: "UTC" });
// The day is the workspace's, wherever its reader is.
let zone = "UTC";
let instant = instantIn(zone);
let dayThere = dayIn(zone);

function instantIn(timeZone: string) {
  return new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short", timeZone });
}

function dayIn(timeZone: string) {
  // Swedish writes days as the interface does: 2027-01-31.
  return new Intl.DateTimeFormat("sv-SE", { timeZone });
}

/** From now on days and times are those of a zone: the workspace's. */
export function keepZone(timeZone: string) {
  if (timeZone === zone) return;
  zone = timeZone;
  instant = instantIn(zone);
  dayThere = dayIn(zone);
}

/** A day such as 2027-01-31, in words. */
export function dayText(date: string): string {
  return day.format(new Date(`${date}T00:00:00Z`));
}

/** The day so many days after another. */
export function dayAfter(date: string, days: number): string {
  return new Date(Date.parse(`${date}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
}

/** How many days a day is from another: positive when later. */
export function daysBetween(from: string, to: string): number {
  return Math.round((Date.parse(`${to}T00:00:00Z`) - Date.parse(`${from}T00:00:00Z`)) / 86_400_000);
}

/** How far off a day is: "in 3 days". */
export function nearText(date: string, today: string): string {
  const off = daysBetween(today, date);
  const near = off === 0 ? "today" : off === 1 ? "tomorrow" : off === -1 ? "yesterday" : undefined;
  return near ?? (off > 0 ? `in ${off} days` : `${-off} days ago`);
}

/** A day by its distance: "in 3 days (26 Nov)". */
export function distanceText(date: string, today: string): string {
  return `${nearText(date, today)} (${shortDay.format(new Date(`${date}T00:00:00Z`))})`;
}

/** An instant, as the workspace's clocks show it. */
export function instantText(at: string): string {
  return instant.format(new Date(at));
}

/** The workspace's day an instant falls on. */
export function dayOf(at: string): string {
  return dayThere.format(new Date(at));
}

/** What an entry of the record says, in words. */
export function actionText(action: string): string {
  return actions[action] ?? action;
}

/** What an entry of the record changed, each thing as it was and as it is since. */
export function changesOf(entry: { details?: unknown }): string[] {
  const details = (entry.details ?? {}) as Record<string, unknown>;
  const changes: string[] = [];
  for (const [name, value] of Object.entries(details)) {
    if (name !== "after" && !name.endsWith(" after")) continue;
    const thing = name === "after" ? "" : name.slice(0, -" after".length);
    const before = details[thing ? `${thing} before` : "before"];
    if (before === value) continue;
    changes.push(`${thing ? `${thing}: ` : ""}${before ?? "nothing"} → ${value || "nothing"}`);
  }
  return changes;
}

const actions: Record<string, string> = {
  "workspace.made": "Workspace made",
  "invitation.queued": "Invited; the mail is queued",
  "invitation.sent": "Mail taken by the mail server",
  "invitation.bounced": "Mail came back",
  "invitation.resent": "Sent again with a new link",
  "invitation.revoked": "Invitation taken back",
  "invitation.accepted": "Invitation accepted",
  "invitation.declined": "Invitation declined",
  "invitation.expired": "Invitation expired",
  "invitation.drafted": "Kept as a draft",
  "invitation.changed": "Draft changed",
  "invitation.corrected": "Address corrected",
  "invitation.extended": "Given more time to answer",
  "invitation.reminded": "Reminder taken by the mail server",
  "invitation.link-handed-out": "Fresh link handed out",
  "invitation.waiting": "Accepted; waits for approval",
  "invitation.approved": "Approved",
  "invitation.refused": "Not approved",
  "batch.added": "List handed in",
  "batch.sent": "List set to be sent",
  "batch.finished": "List worked through",
  "batch.stopped": "List stopped",
  "link.added": "Join link made",
  "link.renewed": "Join link renewed",
  "link.closed": "Join link closed",
  "preset.added": "Preset saved",
  "preset.changed": "Preset changed",
  "preset.removed": "Preset removed",
  "rules.changed": "Rules of the house changed",
  "appearance.changed": "Appearance changed",
  "wording.changed": "Wording of a mail changed",
  "wording.removed": "Wording of a mail taken back",
  "bounce.forgotten": "Taken off the list of bounced addresses",
  "invitation.passed-on": "Passed on to another inviter",
  "address.opted-out": "Asked not to be invited again",
  "code.sent": "Code sent to the invited address",
  "member.joined": "Came aboard",
  "member.paused": "Paused",
  "member.resumed": "Let in again",
  "member.changed": "Details changed",
  "member.kind-changed": "Kind changed",
  "member.extended": "Stay goes on longer",
  "member.signed-out": "Signed out everywhere",
  "person.seen-as": "Looked at as they see it",
  "grant.given": "Role given",
  "grant.changed": "Role changed",
  "grant.taken": "Role taken",
  "group.added": "Group made",
  "group.changed": "Group changed",
  "group.removed": "Group removed",
  "group.joined": "Put into a group",
  "group.left": "Taken out of a group",
  "role.added": "Role made",
  "role.changed": "Role changed",
  "role.removed": "Role removed",
  "area.added": "Area added",
  "area.changed": "Area changed",
  "area.removed": "Area removed",
  "resource.added": "Resource added",
  "resource.changed": "Resource changed",
  "resource.removed": "Resource removed",
  "resource.handed-over": "Resource handed over",
  "resource.switched-off": "Switched off for a resource",
  "resource.switched-on": "Switched on for a resource",
  "organisation.added": "Organisation added",
  "organisation.changed": "Organisation changed",
  "organisation.removed": "Organisation removed",
  "pool.added": "Seat pool added",
  "pool.changed": "Seat pool changed",
  "pool.removed": "Seat pool removed",
  "seat.given": "Seat given",
  "seat.taken": "Seat taken",
  "seat.passed": "Seat passed on",
  "departures.started": "Access of many ended",
  "departure.planned": "Departure planned",
  "departure.confirmed": "Departure confirmed everywhere",
  "departure.confirmed-by-hand": "Closing of an account confirmed by hand",
  "account.carried-out": "Carried out in a connected system",
  "account.told": "Told to a connected system",
  "account.otherwise": "Found otherwise in a connected system",
  "connection.swept": "Connected system swept",
  "left-over.to-remove": "Left-over to be removed",
  "left-over.removed": "Left-over removed",
  "left-over.adopted": "Left-over given to somebody",
  "left-over.left": "Left-over may stay for a while",
  "mapping.added": "Line of a mapping added",
  "mapping.removed": "Line of a mapping taken away",
  "connection.paused": "Carrying out told to wait",
  "connection.resumed": "Carrying out goes on",
  "receipt-key.made": "Key for receipts made",
  "departure.withdrawn": "Planned departure taken back",
  "workspace.restored": "Restored from a back-up",
  "account.password-changed": "Password changed",
  "account.address-proved": "Address proved",
  "account.recovery-link": "Way in made by the operator",
  "account.corrected": "Account corrected",
  "account.proposed": "Name or address proposed",
  "account.proposal-accepted": "Proposal accepted",
  "account.made-outright": "Account made outright",
  "account.paused": "Account paused",
  "account.resumed": "Account resumed",
  "account.closed": "Account closed",
  "account.reset": "Ways in reset",
  "group.moved-in": "People moved into the group",
  "group.moved-back": "Move into the group undone",
  "people.distinct": "Said to be two people",
  "connection.added": "Connection added",
  "connection.changed": "Connection changed",
  "connection.removed": "Connection removed",
  "connection.handed-in": "File of a connection handed in",
  "connection.read": "Connection read",
  "connection.stopped": "Connection could not be read or done",
  "connection.decided": "Records of a connection decided",
  "connection.confirmed": "What was decided of a connection is done",
  "connection.done": "Connection brought in",
  "member.joined-record": "Profile joined with a record of a connection",
  "member.kept-up": "Profile kept up with a connection",
  "people.two-capacities": "Said to be one person in two capacities",
  "people.merged": "Two made one",
  "people.unmerged": "Parted again",
  "account.merged": "Accounts made one",
  "people.not-distinct": "May be one person after all",
  "claim.asked": "Holder asked for the account",
  "claim.reminded": "Holder of the account reminded",
  "claim.agreed": "Holder agreed to the claim",
  "claim.taken": "Account came into custody",
  "claim.declined": "Claim declined",
  "claim.unanswered": "Claim not answered",
  "claim.released": "Address taken back from its account",
  "claim.dropped": "Claim taken back",
  "domain.added": "Mail domain added",
  "domain.removed": "Mail domain removed",
  "domain.proved": "Mail domain proved",
  "domain.lapsing": "Mail domain not shown any more",
  "domain.lost": "Mail domain lost",
  "member.address-changed": "Address changed",
  "application.added": "Application registered",
  "application.changed": "Application changed",
  "application.removed": "Application removed",
  "application.secret-renewed": "Application given another secret",
  "provider.added": "Provider added",
  "provider.changed": "Provider changed",
  "provider.removed": "Provider removed",
  "address.opted-in": "May be invited again",
  "member.host-changed": "Has another host",
  "member.reinstated": "End taken back",
  "person.erased": "Data erased",
  "member.ended": "Access ended",
  "token.added": "API token made",
  "token.revoked": "API token revoked",
};

const number = new Intl.NumberFormat("en-GB");

/** What an empty field for the days of a stay means. */
export function usualText(days: number | undefined): string {
  return days ? `Empty means as usual: ${days} days.` : "Empty means no end, as is usual for this kind.";
}

/** A number with its thousands apart. */
export function numberText(value: number): string {
  return number.format(value);
}

/** A stretch of hours in the unit people would use. */
export function hoursText(hours: number | null | undefined): string {
  if (hours === null || hours === undefined) return "–";
  if (hours < 1) return `${Math.round(hours * 60)} min`;
  return hours < 48 ? `${Math.round(hours * 10) / 10} h` : `${Math.round((hours / 24) * 10) / 10} days`;
}

/** A share of one, in per cent. */
export function shareText(share: number | null | undefined): string {
  return share === null || share === undefined ? "–" : `${Math.round(share * 100)} %`;
}
