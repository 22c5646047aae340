export { type Block, type ReportPage, reportHtml, type Section } from './page';
export { TERM_WORDS, type Term } from './terms';
