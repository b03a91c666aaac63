// The editor of rich text. It is loaded once a box for it is on the page: pages without one do not carry it.
import { Editor } from '@tiptap/core';
import StarterKit from '@tiptap/starter-kit';

export { Editor, StarterKit };
