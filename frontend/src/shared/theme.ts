// Ink green to near black, warm off-white text, one saffron accent.
import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

const both = (dark: string, light: string) => ({ value: { base: light, _dark: dark } });

export const system = createSystem(
  defaultConfig,
  defineConfig({
    globalCss: {
      "html, body, #root": { height: "100%", overflow: "hidden" },
      body: { bg: "bg.ground", color: "ink", fontSize: "13px", fontVariantNumeric: "tabular-nums" },
      "*:focus-visible": { outline: "2px solid {colors.accent}", outlineOffset: "1px" },
      "::-webkit-scrollbar": { width: "10px", height: "10px" },
      "::-webkit-scrollbar-thumb": { bg: "bg.pressed", borderRadius: "5px" },
    },
    theme: {
      tokens: {
        fonts: {
          body: { value: "'IBM Plex Sans', sans-serif" },
          heading: { value: "'IBM Plex Sans', sans-serif" },
          number: { value: "'IBM Plex Sans', sans-serif" },
        },
        radii: { sm: { value: "3px" }, md: { value: "4px" }, lg: { value: "6px" } },
        fontSizes: { xs: { value: "11px" }, sm: { value: "12px" }, md: { value: "13px" }, lg: { value: "15px" } },
      },
      semanticTokens: {
        colors: {
          grid: both("#1b2c25", "#e4dfd0"),
          wave: both("#4d6f60", "#9db3a5"),
          line: both("#22362d", "#d3cdbd"),
          ink: both("#ece4d4", "#20302a"),
          dim: both("#93a398", "#4d5b53"),
          paper: both("#f4ecdc", "#2a3a33"),
          accent: both("#e8b04b", "#9a6608"),
          accentInk: both("#1a1405", "#fffaf0"),
          bg: {
            DEFAULT: both("#0b1411", "#ece8dd"),
            ground: both("#0b1411", "#ece8dd"),
            panel: both("#111d18", "#f6f3ea"),
            raised: both("#192822", "#fffdf6"),
            pressed: both("#24382f", "#ddd8c8"),
            deck: both("#0d1814", "#f3efe4"),
            lane: both("#101d18", "#faf7ee"),
          },
          fg: { DEFAULT: both("#ece4d4", "#20302a"), muted: both("#93a398", "#4d5b53") },
          border: { DEFAULT: both("#22362d", "#d3cdbd") },
        },
      },
    },
  }),
);
