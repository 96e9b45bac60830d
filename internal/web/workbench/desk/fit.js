// widths at which a page is laid out in a frame, in CSS pixels: a real desktop's and a phone's.
const widths = { desktop: 1280, phone: 390 }

// fitFrame lays the page in a frame out at a real width and draws it as large as there is room for.
export function fitFrame(frame, width) {
  const box = frame.parentElement.getBoundingClientRect()
  const scale = Math.min(1, box.width / widths[width])
  Object.assign(frame.style, {
    width: `${widths[width]}px`,
    height: `${box.height / scale}px`,
    transform: `scale(${scale})`,
  })
}
