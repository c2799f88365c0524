/*
 * What a text of a tool speaks of that is none of its business, by what is written alike in every language (paths, names of
 * variables) and by the few words for a prompt and a conversation that people use in theirs.
 */

/** Places of secrets on a machine, and names of variables that hold some. */
const PLACES: readonly [RegExp, string][] = [
  [/(?:~|\$HOME|%USERPROFILE%|\/home\/\w{1,40}|\/root)[/\\]\.?\w/i, 'files of the user'],
  [/(?:^|[\s"'`(=/])\.(?:ssh|aws|env|netrc|npmrc|git-credentials|kube|gnupg|docker)\b/i, 'files with secrets'],
  [
    /\b(?:id_rsa|id_ed25519|known_hosts|authorized_keys|\.pem\b|credentials\.json|secrets?\.(?:ya?ml|json|toml))/i,
    'files with secrets',
  ],
  [
    /\/etc\/(?:passwd|shadow|hosts|sudoers)|\/proc\/(?:self|\d+)\/environ|C:\\(?:Users|Windows)/i,
    'files of the machine',
  ],
  [
    /\b(?:process\.env|os\.environ|printenv|getenv\(|\$ENV\b|\$\{?[A-Z][A-Z0-9_]*(?:KEY|TOKEN|SECRET|PASSWORD)\}?)/,
    'the environment',
  ],
  [/\b[A-Z][A-Z0-9]*_(?:API_)?(?:KEY|TOKEN|SECRET|PASSWORD)\b/, 'the environment'],
];

/** Terms for messages to the model, in several languages. */
const PROMPT = [
  ...['system prompt', 'system message', 'system instructions', 'developer message', 'hidden instructions'],
  ...['systemprompt', 'systemanweisung', 'systemnachricht', 'invite système', 'message système', 'consigne système'],
  ...[
    'prompt del sistema',
    'mensaje del sistema',
    'instrucciones del sistema',
    'prompt do sistema',
    'prompt di sistema',
  ],
  ...[
    'systeemprompt',
    'prompt systemowy',
    'systempromptin',
    'системный промпт',
    'системную подсказку',
    'системное сообщение',
  ],
  ...['系统提示', '系統提示', 'システムプロンプト', '시스템 프롬프트', 'sistem istemi', 'موجه النظام', 'सिस्टम प्रॉम्प्ट'],
];
const CONVERSATION = [
  ...[
    'conversation history',
    'chat history',
    'message history',
    'previous messages',
    'entire conversation',
    'whole conversation',
  ],
  ...[
    'full conversation',
    'gesprächsverlauf',
    'chatverlauf',
    'gesamte unterhaltung',
    'ganze gespräch',
    'bisherigen nachrichten',
  ],
  ...['historique de la conversation', 'toute la conversation', 'messages précédents', 'historial de la conversación'],
  ...[
    'toda la conversación',
    'mensajes anteriores',
    'histórico da conversa',
    'toda a conversa',
    'cronologia della conversazione',
  ],
  ...[
    'intera conversazione',
    'gespreksgeschiedenis',
    'hele gesprek',
    'historię rozmowy',
    'całą rozmowę',
    'историю переписки',
  ],
  ...[
    'весь разговор',
    'историю чата',
    '对话历史',
    '聊天记录',
    '整个对话',
    '会話履歴',
    '会話全体',
    '대화 기록',
    '전체 대화',
    'sohbet geçmişi',
  ],
  ...[
    'tüm konuşma',
    'سجل المحادثة',
    'المحادثة كاملة',
    'बातचीत का इतिहास',
    'पूरी बातचीत',
    'konversationshistorik',
    'hela konversationen',
  ],
];
const MEMORY = [
  ...[
    'your memory',
    'your notes',
    'deine notizen',
    'dein gedächtnis',
    'ta mémoire',
    'tu memoria',
    'sua memória',
    'tua memoria',
  ],
  ...['твою память', '你的记忆', 'あなたの記憶', '기억', 'belleğin', 'ذاكرتك', 'अपनी स्मृति'],
];
const WORDS: readonly [readonly string[], string][] = [
  [PROMPT, 'the system prompt'],
  [CONVERSATION, 'the conversation'],
  [MEMORY, 'the memory of the agent'],
];

export interface Reach {
  /** What it speaks of: `the system prompt`. */
  what: string;
  at: number;
  length: number;
}

/** The first thing that a text speaks of and that is no business of a tool; null where there is none. */
export function reachIn(text: string): Reach | null {
  for (const [pattern, what] of PLACES) {
    const found = pattern.exec(text);
    if (found) return { what, at: found.index, length: found[0].length };
  }
  const lower = text.toLowerCase();
  for (const [words, what] of WORDS)
    for (const word of words) {
      const at = lower.indexOf(word);
      if (at >= 0) return { what, at, length: word.length };
    }
  return null;
}
