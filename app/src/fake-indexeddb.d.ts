declare module 'fake-indexeddb/auto';
