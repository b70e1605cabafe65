// The card at hand, and what else is written anew while somebody works in it.
const cards = ["card", "tools", "findings"];

/** The ids of the groups that are open, for whoever answers with a card. */
export const openGroups = () => [...document.querySelectorAll("#card details[id][open]")].map(d => d.id).join(" ");

/** What tells one field or button of a card from the others, also after the card was written anew. */
function nameOf(element) {
  const fields = element.form ? [...element.form.querySelectorAll("input[type=hidden]")]
    .filter(i => !["basedOn", "__RequestVerificationToken"].includes(i.name)).map(i => i.value) : [];
  const handler = element.form && new URL(element.form.action).searchParams.get("handler");
  return JSON.stringify([element.tagName, element.id, handler, fields, element.name, element.type === "submit" || element.type === "radio" ? element.value
    : "", element.getAttribute("href")]);
}

/** What somebody is in the middle of: the field at hand, the open groups. */
export function look() {
  const focused = document.activeElement?.closest(cards.map(c => `#${c}`).join(", ")) ? nameOf(document.activeElement) : null;
  const card = document.getElementById("card");
  const within = document.activeElement?.closest("#card details[id]")?.id;
  return { focused, within, groups: new Map([...card?.querySelectorAll("details[id]") ?? []].map(d => [d.id, d.open])), scroll: card?.scrollTop ?? 0 };
}

/** The card is new, but somebody was in the middle of something: the same groups are open, the same field is at hand. */
export function restore({ focused, within, groups, scroll }) {
  const card = document.getElementById("card");
  if (!card) return;
  // The group that somebody works in stays the open one, also in the card of another thing.
  const all = [...card.querySelectorAll("details[id]")], works = all.some(g => g.id === within);
  for (const group of all) if (works || groups.has(group.id)) group.open = groups.get(group.id) ?? false;
  card.scrollTop = scroll;
  if (!focused || (document.activeElement && document.activeElement !== document.body)) return;
  for (const part of cards) {
    const again = [...document.getElementById(part)?.querySelectorAll("button, input, select, a, summary") ?? []].find(e => nameOf(e) === focused);
    if (again) {
      again.focus({ preventScroll: true });
      return;
    }
  }
}

/** Around a swap that is not htmx's own request. */
export function keeping(swap) {
  const was = look();
  swap();
  restore(was);
}
