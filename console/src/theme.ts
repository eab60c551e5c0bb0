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

const font = '"Source Sans 3 Variable", "Segoe UI", "Helvetica Neue", Arial, sans-serif';

export const theme = createTheme({
  primaryColor: "harbour",
  primaryShade: { light: 6, dark: 3 },
  autoContrast: true,
  colors: { harbour },
  fontFamily: font,
  headings: { fontFamily: font, fontWeight: "650" },
  defaultRadius: 2,
  cursorType: "pointer",
  fontSizes: { sm: "15px", md: "16px" },
});
