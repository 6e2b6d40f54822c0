// send posts fields as a form and asks for JSON back. It throws an error with
// a message for the reader where the server refuses, and one with offline set
// where it cannot be reached.
export async function send(url, fields, options = {}) {
  const csrf = document.querySelector('meta[name="csrf"]').content;
  let response;
  try {
    response = await fetch(url, {
      method: "POST", body: new URLSearchParams(fields), signal: options.signal,
      headers: { "X-CSRF-Token": csrf, Accept: options.accept ?? "application/json", "X-Fragment": "1" },
    });
  } catch (cause) {
    if (cause.name === "AbortError") throw cause;
    throw Object.assign(new Error("No connection."), { offline: true, cause });
  }
  if (!response.ok) {
    const answer = await response.json().catch(() => null);
    throw Object.assign(new Error(answer?.error ?? `The server answered ${response.status}.`), { status: response.status, answer });
  }
  return response;
}
