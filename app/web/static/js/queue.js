// The queue is shown anew every two seconds as long as the page is seen and nothing in it has the focus.

if (document.querySelector('#queue table')) {
  setInterval(() => { if (!document.hidden && !document.querySelector('#queue :focus')) location.reload(); }, 2000);
}
