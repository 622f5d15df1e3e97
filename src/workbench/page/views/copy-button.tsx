import { useState } from 'react';

export function CopyButton({ text, what }: { readonly text: string; readonly what: string }) {
  const [isCopied, setCopied] = useState(false);
  return (
    <button
      type="button"
      className="quiet"
      onClick={() =>
        navigator.clipboard.writeText(text).then(() => {
          setCopied(true);
          setTimeout(() => setCopied(false), 1500);
        })
      }
    >
      <span role="status">{isCopied ? 'Copied' : `Copy ${what}`}</span>
    </button>
  );
}
