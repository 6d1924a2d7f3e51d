// Asking the server for something that changes nothing: whatever does not come is told.
import { remark } from "./edits.js";

/** The answer to a request; what is no success is said in the server's own words, and thrown. */
export async function ask(url, options) {
  let answer;
  try {
    answer = await fetch(url, options);
  } catch (error) {
    remark("The program does not answer. Is it still running?", "error");
    throw error;
  }
  if (answer.ok) return answer;
  const said = answer.headers.get("Gw-Reason");
  remark(said ? decodeURIComponent(said) : "The program could not answer this.", "error");
  throw new Error(`${answer.status} for ${url}`);
}
