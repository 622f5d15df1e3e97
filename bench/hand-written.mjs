// What a careful engineer would write for the booking of bench/judging.mjs, with the same answers.
const MARK = /^[A-Z]{2}-\d{4}$/;
const EMAIL =
  /^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$/;
const DAYS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

function isDay(text) {
  if (typeof text !== 'string' || text.length !== 10 || text.charCodeAt(4) !== 45 || text.charCodeAt(7) !== 45) return false;
  const year = digits(text, 0, 4);
  const month = digits(text, 5, 7);
  const date = digits(text, 8, 10);
  if (!(month >= 1 && month <= 12 && date >= 1 && year >= 0)) return false;
  return date <= (month === 2 && year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0) ? 29 : DAYS[month - 1]);
}
function digits(text, from, to) {
  let value = 0;
  for (let i = from; i < to; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return Number.NaN;
    value = value * 10 + digit;
  }
  return value;
}
const nights = (from, to) =>
  Math.round(
    (Date.UTC(+to.slice(0, 4), +to.slice(5, 7) - 1, +to.slice(8)) - Date.UTC(+from.slice(0, 4), +from.slice(5, 7) - 1, +from.slice(8))) /
      86_400_000,
  );
const isText = (value) => typeof value === 'string' && value.isWellFormed() && !value.includes('\0');
const places2 = (value) => Math.round(value * 100) / 100 === value;

export function handWritten(body) {
  let findings;
  const fail = (pointer, message) => {
    findings ??= [];
    findings.push({ pointer, message });
  };
  const { mark, email, lengthOverall, beam, berth, arrives, departs, power, amount, crew, notes, gateCode, gateCodeAgain, terms } = body;
  if (!isText(mark) || !MARK.test(mark)) fail('/mark', 'Mark must be a mark.');
  if (!isText(email) || !EMAIL.test(email)) fail('/email', 'E-mail must be an e-mail address.');
  const lengthOk = typeof lengthOverall === 'number' && lengthOverall >= 2 && lengthOverall <= 40 && places2(lengthOverall);
  if (!lengthOk) fail('/lengthOverall', 'Length must be from 2 to 40.');
  const beamOk = typeof beam === 'number' && beam >= 1 && beam <= 15 && places2(beam);
  if (!beamOk) fail('/beam', 'Beam must be from 1 to 15.');
  if (!isText(berth) || berth.trim() === '' || berth.length > 4) fail('/berth', 'Berth must have at most 4 characters.');
  const arrivesOk = isDay(arrives);
  if (!arrivesOk) fail('/arrives', 'Arrival must be a day.');
  const departsOk = isDay(departs);
  if (!departsOk) fail('/departs', 'Departure must be a day.');
  if (power !== undefined && power !== '16A' && power !== '32A') fail('/power', 'Power must be 16A or 32A.');
  if (!Number.isSafeInteger(amount) || amount < 0 || amount > 50) fail('/amount', 'Amount must be from 0 to 50.');
  let people;
  if (!Array.isArray(crew) || crew.length > 12) fail('/crew', 'Crew must have at most 12 entries.');
  else {
    people = [];
    for (let i = 0; i < crew.length; i++) {
      const { name, born } = crew[i];
      if (!isText(name) || name.trim() === '' || name.length > 80) fail(`/crew/${i}/name`, 'Name must have at most 80 characters.');
      if (!isDay(born)) fail(`/crew/${i}/born`, 'Born must be a day.');
      people.push({ name, born });
    }
  }
  if (notes !== undefined && (!isText(notes) || notes.length > 500)) fail('/notes', 'Notes must have at most 500 characters.');
  const codeOk = isText(gateCode) && gateCode.length >= 4 && gateCode.length <= 12;
  if (!codeOk) fail('/gateCode', 'Gate code must have 4 to 12 characters.');
  if (typeof terms !== 'boolean') fail('/terms', 'Terms must be true or false.');
  if (arrivesOk && departsOk) {
    if (!(arrives < departs)) fail('/departs', 'Departure must be after Arrival.');
    const stay = nights(arrives, departs);
    if (stay < 1 || stay > 28) fail('/departs', '1 to 28');
  }
  if (codeOk && gateCode !== gateCodeAgain) fail('/gateCodeAgain', 'Again must be the same as Gate code.');
  if (lengthOk && beamOk && !(beam < lengthOverall)) fail('/beam', 'Beam');
  if (findings) return { findings };
  const value = { mark, email, lengthOverall, beam, berth, arrives, departs, power, amount, crew: people, notes, gateCode, terms };
  return { value };
}
