// Asks the server to change something, and waits for its answer, which puts everything where it lies then.

/** @param {string} handler of the page @param {Record<string, string>} values of its fields */
export function post(handler, values) {
  const address = new URL(location.href);
  address.searchParams.set("handler", handler);
  const token = document.querySelector("#tools [name=__RequestVerificationToken]").value;
  const sent = { ...values, asked: crypto.randomUUID(), basedOn: "", __RequestVerificationToken: token };
  return new Promise(done => {
    const over = ({ detail }) => {
      if (detail.requestConfig?.parameters?.asked !== sent.asked) return;
      document.removeEventListener("htmx:afterRequest", over);
      done();
    };
    document.addEventListener("htmx:afterRequest", over);
    window.htmx.ajax("POST", address.pathname + address.search, { source: "#docket", values: sent });
  });
}
