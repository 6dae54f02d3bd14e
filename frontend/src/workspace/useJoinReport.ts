// How the body of the open take is joined: which joints follow which, where timecode puts it, when its feet stand.
import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import { useOpen } from "./workspace";

const GOING = ["scaled", "metres"];

/** Whether a body goes its whole way, so that feet which stand do not slide. */
export const goesItsWay = (join: { travel: string }): boolean => GOING.includes(join.travel);

/** The report of the open take; none without a body or a face, or where it is not wanted. */
export function useJoinReport(wanted = true) {
  const { opened } = useOpen("opened");
  const body = opened?.sources.body;
  return useQuery({
    queryKey: ["join", opened?.take.id, opened?.join.version, body?.id, opened?.character?.id],
    queryFn: () => api.joinReport(opened!.take.id),
    enabled: wanted && !!body && !!opened?.sources.curves,
  }).data;
}
