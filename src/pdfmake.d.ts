declare module 'pdfmake/fonts/Roboto.js' {
	const fonts: import('pdfmake/interfaces').TFontDictionary;
	export default fonts;
}
