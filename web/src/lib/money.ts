/** Money as it is sent: a decimal point, no thousands. What is no amount stays as typed, for the server to name. */
export function readMoney(text: string, mark: "." | ","): string {
  const plain = text.trim().replace("−", "-");
  return mark === ","
    ? plain.replace(/\.(?=\d{3}(\D|$))/g, "").replace(",", ".")
    : plain.replace(/,(?=\d{3}(\D|$))/g, "");
}
