import { useSyncExternalStore } from "react";

// Dark or light, kept in the browser.
const listeners = new Set<() => void>();
const KEY = "dynaface.theme";

export const isLight = () => document.documentElement.classList.contains("light");

export function startTheme() {
  document.documentElement.className = localStorage.getItem(KEY) === "light" ? "light" : "dark";
}

export function toggleTheme() {
  const next = isLight() ? "dark" : "light";
  localStorage.setItem(KEY, next);
  document.documentElement.className = next;
  listeners.forEach((l) => l());
}

export function onTheme(listener: () => void): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

/** Draws again when the theme changes. */
export const useLight = (): boolean => useSyncExternalStore(onTheme, isLight);
