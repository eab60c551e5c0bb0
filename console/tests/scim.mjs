// An independent SCIM source, built on a library for that. It prints its address once it answers, is told on standard input
// which users it has and how it misbehaves, and says "told" when it knows.
import SCIMMY from "scimmy";
import { serve } from "./scim-peer.mjs";

let users = [];
let manner = "";
let busy = 0;

SCIMMY.Resources.declare(SCIMMY.Resources.User.extend(SCIMMY.Schemas.EnterpriseUser))
  .ingress(() => {
    throw new Error("Nobody writes here.");
  })
  .egress((resource) => {
    if (resource.id) return users.find((user) => user.id === resource.id);
    return resource.filter ? resource.filter.match(users) : users;
  })
  .degress(() => {
    throw new Error("Nobody writes here.");
  });

serve(
  (request, answer, next) => {
    const start = Number(request.query.startIndex ?? 1);
    if (manner === "busy" && busy++ === 0) answer.status(429).set("Retry-After", "1").end();
    else if (manner === "broken" && start > 1) answer.status(500).end();
    else if (manner === "empty" && start > 1)
      answer.json({ totalResults: users.length, startIndex: start, itemsPerPage: 0, Resources: [] });
    else if (manner === "no-json") answer.send("<html>hello</html>");
    else next();
  },
  (told) => {
    ({ users, manner } = told);
    busy = 0;
    return "told";
  },
);
