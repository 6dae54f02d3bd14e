// A connection with the process of feeds: the web server says where it is, and gives a ticket that opens it.
import { api, Problem } from "./client";

export const AGAIN = 1500; // milliseconds until a connection that broke off is tried again

/** A socket that opens; a Problem where none can. */
export async function feedSocket(production: string, path: "feed" | "camera"): Promise<WebSocket> {
  const door = await api.openFeed(production);
  return new WebSocket(`${door.address}/${path}?ticket=${encodeURIComponent(door.ticket)}`);
}

/** Sends where the socket is open; whether it is. A browser warns of what is sent to one that closes. */
export function sendOn(socket: WebSocket | null, what: string | ArrayBuffer | Uint8Array<ArrayBuffer>): boolean {
  if (!socket || socket.readyState !== socket.OPEN) return false;
  socket.send(what);
  return true;
}

/** Whether trying again would be refused again. */
export const isRefusal = (error: unknown): error is Problem =>
  error instanceof Problem && error.status >= 400 && error.status < 500;
