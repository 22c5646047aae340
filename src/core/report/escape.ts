const SAID: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

/** Text as it stands in HTML, also within quotes. */
export const escaped = (text: string): string => text.replace(/[&<>"']/g, (c) => SAID[c]);
