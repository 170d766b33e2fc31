/** Gives what was made on the page to the browser as a file. */
export function saveAs(name: string, contents: Blob) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(contents)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
