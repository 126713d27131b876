// A recording, from a file or the microphone, decoded here and sent as PCM WAV.
(() => {
  const RATE = 16000;
  const SECONDS = 10;

  function wav(samples) {
    const view = new DataView(new ArrayBuffer(44 + 2 * samples.length));
    const text = (at, letters) => [...letters].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
    text(0, "RIFF"); view.setUint32(4, 36 + 2 * samples.length, true); text(8, "WAVEfmt ");
    view.setUint32(16, 16, true); view.setUint16(20, 1, true); view.setUint16(22, 1, true);
    view.setUint32(24, RATE, true); view.setUint32(28, 2 * RATE, true); view.setUint16(32, 2, true);
    view.setUint16(34, 16, true); text(36, "data"); view.setUint32(40, 2 * samples.length, true);
    samples.forEach((value, i) => view.setInt16(44 + 2 * i, Math.round(32767 * Math.max(-1, Math.min(1, value))), true));
    return new Blob([view], { type: "audio/wav" });
  }

  async function decoded(bytes) {
    const context = new OfflineAudioContext(1, RATE, RATE);
    const sound = await context.decodeAudioData(bytes);
    return sound.getChannelData(0);
  }

  async function put(form, bytes) {
    const file = new File([wav(await decoded(bytes))], "recording.wav", { type: "audio/wav" });
    const kept = new DataTransfer();
    kept.items.add(file);
    form.querySelector("[data-sound-file]").files = kept.files;
  }

  function say(form, text) { form.querySelector("[data-sound-says]").textContent = text; }

  document.addEventListener("change", async (event) => {
    const input = event.target.closest?.("[data-sound-file]");
    if (!input || !input.files.length || input.files[0].name === "recording.wav") return;
    const form = input.form;
    try {
      await put(form, await input.files[0].arrayBuffer());
      say(form, "Ready. Press Listen.");
    } catch {
      say(form, "This browser cannot decode that file. It is sent as it is; WAV works.");
    }
  });

  document.addEventListener("click", async (event) => {
    const button = event.target.closest?.("[data-sound-record]");
    if (!button) return;
    const form = button.form;
    try {
      const quiet = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
      const stream = await navigator.mediaDevices.getUserMedia({ audio: quiet });
      const recorder = new MediaRecorder(stream);
      const parts = [];
      recorder.ondataavailable = (part) => parts.push(part.data);
      recorder.onstop = async () => {
        stream.getTracks().forEach((track) => track.stop());
        await put(form, await new Blob(parts).arrayBuffer());
        say(form, "Recorded. Press Listen.");
      };
      recorder.start();
      say(form, "Recording. Hold still for ten seconds.");
      setTimeout(() => recorder.stop(), 1000 * SECONDS);
    } catch {
      say(form, "No microphone. Allow it in the browser, or bring a sound file.");
    }
  });

  function offer() {
    document.querySelectorAll("[data-sound-record]").forEach((button) => {
      const can = window.isSecureContext && navigator.mediaDevices && window.MediaRecorder;
      button.hidden = !can;
      if (!can) say(button.form, "Recording here needs https. Record with the phone's own recorder and bring the file.");
    });
  }
  document.addEventListener("DOMContentLoaded", offer);
  document.addEventListener("htmx:afterSettle", offer);
})();
