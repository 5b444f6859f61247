// The countdown of a trial. The server goes back by itself: this only shows how
// long that is, and the page anew once it is done.
const trial = document.getElementById("trial");
if (trial) {
  const ends = performance.now() + Number(trial.dataset.left);
  const count = trial.querySelector("[data-count]");
  const tick = () => {
    const left = Math.ceil((ends - performance.now()) / 1000);
    count.textContent = Math.max(0, left);
    if (left <= -1) {
      location.reload();
      return;
    }
    setTimeout(tick, 250);
  };
  tick();
}
