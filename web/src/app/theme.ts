/** Percorso's look on Mantine: ink on paper, one type family, no ornaments. */
import { type CSSVariablesResolver, createTheme, Modal } from "@mantine/core";

const ink = [
  "#f3f4f4",
  "#e3e6e6",
  "#c8cdcd",
  "#a9b0b1",
  "#8c9496",
  "#6b7476",
  "#515a5c",
  "#394143",
  "#252c2e",
  "#171d1f",
] as const;

export const theme = createTheme({
  fontFamily: "'Overpass Variable', sans-serif",
  fontFamilyMonospace: "'Overpass Mono Variable', monospace",
  headings: { fontFamily: "'Overpass Variable', sans-serif", fontWeight: "700" },
  fontSizes: { xs: "13px", sm: "15px", md: "15px", lg: "18px", xl: "24px" },
  colors: { ink: [...ink] },
  primaryColor: "ink",
  primaryShade: { light: 9, dark: 1 },
  autoContrast: true,
  defaultRadius: 4,
  cursorType: "pointer",
  focusRing: "always",
  // Dialogs come and go at once: the keys of the room work again with the next stroke.
  components: { Modal: Modal.extend({ defaultProps: { transitionProps: { duration: 0 } } }) },
});

const light = {
  "--mantine-color-body": "#f7f4ed",
  "--mantine-color-text": "#1d2427",
  "--mantine-color-default": "#fdfbf6",
  "--mantine-color-default-border": "#8f887a",
  "--mantine-color-dimmed": "#5c615f",
  "--mantine-color-error": "#a8231b",
  "--paper-raised": "#fdfbf6",
  "--paper-sunk": "#ece6d9",
  "--rule": "#d8d0bf",
  "--supply": "#0d5c74",
  "--return": "#85530f",
  "--measured": "#5d3a93",
  "--allowance": "#e2ebe4",
  "--pass": "#246b40",
  "--marginal": "#8a5a00",
  "--assumed": "#7d6420",
  "--fail": "#a8231b",
  "--unknown": "#5c615f",
  "--load-engine": "#2c3437",
  "--load-safety": "#6a7477",
  "--load-work": "#9aa3a4",
  "--load-comfort": "#c3b48d",
};

const dark = {
  "--mantine-color-body": "#13181a",
  "--mantine-color-text": "#e9e5db",
  "--mantine-color-default": "#1b2123",
  "--mantine-color-default-border": "#6c7577",
  "--mantine-color-dimmed": "#a3aaa9",
  "--mantine-color-error": "#ff9186",
  "--paper-raised": "#1b2123",
  "--paper-sunk": "#262d30",
  "--rule": "#353d40",
  "--supply": "#63bdd6",
  "--return": "#dba858",
  "--measured": "#bfa2f2",
  "--allowance": "#1c2a25",
  "--pass": "#79c795",
  "--marginal": "#e6b45a",
  "--assumed": "#d0b25c",
  "--fail": "#ff9186",
  "--unknown": "#a3aaa9",
  "--load-engine": "#cfd4d3",
  "--load-safety": "#959e9f",
  "--load-work": "#667174",
  "--load-comfort": "#8a7c55",
};

export const cssVariables: CSSVariablesResolver = () => ({ variables: {}, light, dark });
