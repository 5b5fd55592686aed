// The shelf: models are found by words of their names and aims, and ordered.

const cards = [...document.querySelectorAll('.card-model')], list = document.querySelector('.cards');
const find = document.getElementById('find-model'), order = document.getElementById('order-models');

function show() {
  const words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
  let seen = 0;
  for (const card of cards) {
    const text = `${card.dataset.name} ${card.querySelector('.aim').textContent}`.toLowerCase();
    card.hidden = !words.every((w) => text.includes(w));
    seen += card.hidden ? 0 : 1;
  }
  document.getElementById('none-found').hidden = seen > 0;
}

find?.addEventListener('input', show);
order?.addEventListener('change', () => {
  const sorted = order.value === 'name' ? [...cards].sort((a, b) => a.dataset.name.localeCompare(b.dataset.name)) : cards;
  list.append(...sorted);
});
document.addEventListener('keydown', (e) => {
  if (e.key === '/' && !e.target.closest('input, textarea, select')) {
    e.preventDefault();
    find?.focus();
  }
});
