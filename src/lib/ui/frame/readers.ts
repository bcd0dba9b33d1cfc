/** The readers of whatever is dropped, chosen or pasted: they come when something is. */
export { readLinuxBox } from '#core/formats/linux';
export { readCapture } from '#core/formats/pcapng';
export { isCapture, recogniseText } from '#core/formats/recognise';
export { readYang } from '#core/formats/yang';
