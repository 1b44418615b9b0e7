import { setDracoWasm } from '@jig-peel/core/formats/gltfDecoders';
import address from 'draco3dgltf/draco_decoder_gltf.wasm?url';

setDracoWasm(async () => (await fetch(address)).arrayBuffer());
