import { createTheme, type MantineColorsTuple } from "@mantine/core";

const harbour: MantineColorsTuple = [
  "#e6f4f6",
  "#cde7eb",
  "#9dd0d8",
  "#6cc3d0",
  "#3f9dab",
  "#1f7c8b",
  "#0b5563",
  "#094753",
  "#073943",
  "#052b33",
];

const alarm: MantineColorsTuple = [
  "#fbeae4",
  "#f6d5ca",
  "#f0b8a6",
  "#f0a390",
  "#d9694f",
  "#b3452f",
  "#8f2d1e",
  "#782416",
  "#611c11",
  "#4a140b",
];

const fair: MantineColorsTuple = [
  "#e8f3ea",
  "#d0e7d5",
  "#b0d9ba",
  "#86cf9b",
  "#579c6c",
  "#3f8153",
  "#2c6a3f",
  "#235634",
  "#1b4429",
  "#13321e",
];

const brass: MantineColorsTuple = [
  "#faf2df",
  "#f3e4bf",
  "#ebd193",
  "#e3b862",
  "#c9983a",
  "#a87822",
  "#84580b",
  "#6c4808",
  "#553806",
  "#3f2904",
];

const font = '"Source Sans 3 Variable", "Segoe UI", "Helvetica Neue", Arial, sans-serif';

export const theme = createTheme({
  components: {
    // Its cross has no name of its own for whoever reads with a screen reader.
    Notification: { defaultProps: { closeButtonProps: { "aria-label": "Close this message" } } },
    // A list that is closed need not be there, nor be measured, whenever its page is drawn.
    Select: { defaultProps: { comboboxProps: { keepMounted: false } } },
    MultiSelect: { defaultProps: { comboboxProps: { keepMounted: false } } },
    Autocomplete: { defaultProps: { comboboxProps: { keepMounted: false } } },
  },
  primaryColor: "harbour",
  primaryShade: { light: 6, dark: 5 },
  autoContrast: true,
  colors: { harbour, alarm, fair, brass },
  fontFamily: font,
  headings: { fontFamily: font, fontWeight: "650" },
  defaultRadius: 2,
  cursorType: "pointer",
  fontSizes: { sm: "15px", md: "16px" },
});
