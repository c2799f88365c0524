/** Words that speak to the model about something other than what they are to tell it. */
const ORDERS = [
  /\b(?:ignore|disregard|forget|override)\b[^.]{0,40}\b(?:previous|prior|earlier|above|other|all|any|system)\b[^.]{0,30}\b(?:instructions?|rules?|prompts?|messages?|directions?)\b/iu,
  /\b(?:do not|don't|never|without)\s+(?:tell|telling|mention|mentioning|inform|informing|show|showing|reveal|revealing|ask|asking)\b[^.]{0,20}\b(?:the |your )?(?:user|human|person|caller|anyone|anybody|operator)\b/iu,
  /\b(?:before|after|instead of|prior to)\s+(?:using|calling|you (?:use|call)|invoking)\s+(?:any|every|all|other)\b[^.]{0,30}\b(?:tools?|functions?)\b/iu,
  /\b(?:you|assistant|model|agent)\s+(?:must|have to|are required to|shall)\s+(?:always|first|also|now|immediately|secretly|silently)\b/iu,
  /\b(?:send|forward|copy|post|upload|bcc|include|append|attach)\b[^.]{0,60}\b(?:conversation|chat history|system prompt|instructions|credentials?|passwords?|api keys?|secrets?|tokens?|environment variables?)\b/iu,
  /\b(?:read|open|fetch|include|cat)\b[^.]{0,40}(?:~\/|\/etc\/|\.ssh\b|\.env\b|id_rsa\b|\.aws\b)/iu,
  /\b(?:system|developer)\s+(?:prompt|message|override|note)\s*:/iu,
  /<\/?\s*(?:important|system|instructions?|secret|admin|assistant|hidden)\s*>/iu,
  /\[\s*(?:system|inst|admin)\s*\]/iu,
  /\b(?:always|from now on,?)\s+(?:call|use|run|prefer|invoke)\s+(?:this|the)\b[^.]{0,30}\b(?:first|before|instead|tool)\b/iu,
];

/** The first order in a text, and the text as it reads without what cannot be seen; null where there is none. */
export function orderIn(text: string): { plain: string; at: number; length: number } | null {
  // What is written with spaces that are none, or over several lines, reads the same.
  const plain = text.replaceAll(/[\u200b-\u200f\u2060\ufeff\u00ad]/g, '').replaceAll(/\s+/g, ' ');
  const [found] = ORDERS.map((order) => order.exec(plain))
    .filter((one) => one !== null)
    .sort((x, y) => x.index - y.index);
  return found ? { plain, at: found.index, length: found[0].length } : null;
}
