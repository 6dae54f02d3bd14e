// The body of an open take as something that is looked through for snags: what mends it is kept in its join.
import { pathOf } from "../api/changes";
import type { SnagHolder } from "../snags/snagHolder";
import type { TakeSession } from "./session";

export const bodySnagsOf = (session: TakeSession): SnagHolder => ({
  get closed() {
    return session.closed;
  },
  get now() {
    return session.now;
  },
  get state() {
    return session.state;
  },
  get snagsOf() {
    return `${session.snagsOf} body`;
  },
  tried: ({ mends }) => session.tried({ bodyMends: mends }),
  draw: (shown) => session.draw(shown),
  findSnags: () => session.findBodySnags(),
  mendSnags: (keys) => session.mendBody(keys),
  dismissSnag: (key, label, value) => {
    const path = pathOf("dismissed", key);
    return session.edit("join", label, [value ? { path, value } : { path, remove: true }]);
  },
});
