// The languages in which a text is spoken, by name.
import { NativeSelect } from "@chakra-ui/react";

const LANGUAGES: Record<string, string> = {
  en: "English",
  de: "German",
  es: "Spanish",
  fr: "French",
  it: "Italian",
  pt: "Portuguese",
  nl: "Dutch",
  pl: "Polish",
  sv: "Swedish",
  fi: "Finnish",
  cs: "Czech",
  tr: "Turkish",
};

type Props = { label: string; value: string; onChange: (code: string) => void };

export function LanguageField({ label, value, onChange }: Props) {
  return (
    <NativeSelect.Root size="xs" w="104px">
      <NativeSelect.Field aria-label={label} value={value} onChange={(e) => onChange(e.target.value)}>
        {Object.entries(LANGUAGES).map(([code, name]) => (
          <option key={code} value={code}>
            {name}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}
