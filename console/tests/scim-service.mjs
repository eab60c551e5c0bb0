// An independent SCIM service that is written to, built on a library for that. It prints its address once it answers. On standard
// input it is told, a line each, what it has and how it misbehaves, or asked what it holds; each line is answered by one.
import SCIMMY from "scimmy";
import { serve } from "./scim-peer.mjs";

const { Resources, Schemas, Types } = SCIMMY;
const [users, groups] = [new Map(), new Map()];
let manner = {};
let counted = 0;

const keep = (all) => (resource, data) => {
  const value = JSON.parse(JSON.stringify(data));
  const clash = [...all.values()].find(
    (one) => value.userName && one.userName === value.userName && one.id !== resource.id,
  );
  if (clash) throw new Types.Error(409, "uniqueness", "There is one of that name.");
  if (resource.id && !all.has(resource.id)) throw new Types.Error(404, null, "There is none.");
  do value.id = resource.id ?? `t${++counted}`;
  while (!resource.id && all.has(value.id));
  if (!(manner.lies === "patch" && resource.id)) all.set(value.id, value);
  return value;
};
const find = (all) => (resource) => {
  if (resource.id) {
    if (!all.has(resource.id)) throw new Types.Error(404, null, "There is none.");
    return all.get(resource.id);
  }
  const values = [...all.values()];
  return resource.filter ? resource.filter.match(values) : values;
};

Resources.declare(Resources.User.extend(Schemas.EnterpriseUser))
  .ingress(keep(users))
  .egress(find(users))
  .degress((resource) => {
    if (!users.has(resource.id)) throw new Types.Error(404, null, "There is none.");
    if (manner.lies === "delete") return;
    users.delete(resource.id);
    for (const group of groups.values())
      group.members = (group.members ?? []).filter((member) => member.value !== resource.id);
  });
Resources.declare(Resources.Group)
  .ingress(keep(groups))
  .egress(find(groups))
  .degress(() => {
    throw new Types.Error(501, null, "Groups stay.");
  });

serve(
  async (request, answer, next) => {
    if (manner.slow) await new Promise((done) => setTimeout(done, manner.slow));
    if (manner.away) return request.socket.destroy();
    if (manner.busy > 0 && request.method !== "GET") {
      manner.busy--;
      return answer.status(429).set("Retry-After", "1").end();
    }
    if (manner.refuses?.includes(request.method))
      return answer.status(manner.status ?? 400).json({ detail: "Not today." });
    next();
  },
  (told) => {
    if (told.manner) manner = told.manner;
    if (told.config) SCIMMY.Config.set(told.config);
    for (const user of told.users ?? []) users.set(user.id, user);
    for (const name of told.groups ?? []) groups.set(name, { id: name, displayName: name, members: [] });
    return JSON.stringify({
      users: [...users.values()],
      groups: Object.fromEntries(
        [...groups.values()].map((one) => [one.displayName, (one.members ?? []).map((m) => m.value)]),
      ),
    });
  },
);
