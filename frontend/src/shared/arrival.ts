// Opening what has just been made, unless the person has gone elsewhere meanwhile.
import { useNavigate } from "react-router";

/** Whether two addresses are at one desk of one production, whichever take or shot is open. */
export const sameDesk = (one: string, other: string) =>
  one.split("/").slice(1, 3).join("/") === other.split("/").slice(1, 3).join("/");

/** To call as the work begins; what it gives back opens an address at the end of the work.
 *  Making takes a moment, in which somebody may choose another desk: nobody is called back from there. */
export function useArrival() {
  const navigate = useNavigate();
  return () => {
    const begun = window.location.pathname;
    return (address: string) => {
      if (sameDesk(begun, window.location.pathname)) void navigate(address);
    };
  };
}
