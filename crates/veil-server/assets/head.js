// The head of every page: which show it is about.

const chosen = document.getElementById("show-switch");
if (chosen) {
  chosen.onchange = () => {
    const place = document.body.classList.contains("bench-page") ? "/" : location.pathname;
    location.href = chosen.value ? `${place}?show=${encodeURIComponent(chosen.value)}` : place;
  };
}
