/* Sends a message without loading the page anew. Without this script the form does the same by itself. */
const form = document.querySelector('form.say');
const talk = document.querySelector('ol.talk');
const field = form.querySelector('input');

function add(who, text) {
  const turn = document.createElement('li');
  turn.className = who;
  const label = document.createElement('span');
  label.className = 'who';
  label.textContent = who === 'you' ? 'You' : 'Answer';
  const words = document.createElement('p');
  words.textContent = text;
  turn.append(label, words);
  talk.append(turn);
  turn.scrollIntoView({ block: 'end' });
  return words;
}

// An answer that is still being worked on appears by itself, unless somebody is typing.
if (talk.dataset.running !== undefined)
  setInterval(() => field.value === '' && !document.querySelector('form.question') && location.reload(), 2000);

form.addEventListener('submit', async (event) => {
  event.preventDefault();
  const message = field.value.trim();
  if (!message) return;
  field.value = '';
  field.disabled = true;
  add('you', message);
  const answer = add('it', 'Thinking …');
  try {
    const response = await fetch(location.pathname, {
      method: 'POST',
      headers: { accept: 'application/json', 'content-type': 'application/x-www-form-urlencoded' },
      body: new URLSearchParams({ message }),
    });
    const body = await response.json();
    // A question to the visitor stands on the page as a form.
    if (body.asks) return location.reload();
    answer.textContent = body.answer ?? body.title ?? 'There was no answer.';
  } catch {
    answer.textContent = 'The service does not answer. Your message was not lost: send it again in a moment.';
    field.value = message;
  } finally {
    field.disabled = false;
    field.focus();
  }
});
