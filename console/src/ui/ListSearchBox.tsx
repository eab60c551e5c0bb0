import { TextInput } from "@mantine/core";
import { useDebouncedCallback } from "@mantine/hooks";
import { useState } from "react";

/** Searches a list as one types, and says in what; the words become part of the page's address. */
export function ListSearchBox({
  value,
  onSearch,
  within = "names, addresses, organisations",
}: {
  value?: string;
  onSearch: (words?: string) => void;
  within?: string;
}) {
  const [typed, setTyped] = useState(value ?? "");
  const search = useDebouncedCallback((words: string, page: string) => {
    // Whoever has gone on to another page meanwhile is not to be fetched back.
    if (window.location.pathname === page) onSearch(words.trim() || undefined);
  }, 250);
  return (
    <TextInput
      type="search"
      aria-label={`Search in ${within}`}
      placeholder={`Search in ${within}`}
      value={typed}
      onChange={(event) => {
        setTyped(event.currentTarget.value);
        search(event.currentTarget.value, window.location.pathname);
      }}
      w={{ base: "100%", sm: 340 }}
    />
  );
}
