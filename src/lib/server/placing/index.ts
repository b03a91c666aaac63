export { comingFor, restandInvoice, restandOwed } from './standing';
export { settlePlaces } from './itself';
export { placePayment, placePayments } from './itself';
export { placeByHand, setAside, takePlacesBack, type PlacedByHand } from './byHand';
