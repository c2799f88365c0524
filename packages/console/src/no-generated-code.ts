import { config } from 'zod';

// Zod would try to generate code, which the content security policy forbids and the browser's log would show. This is a
// module of its own because it must be done before any other module makes its schemas.
config({ jitless: true });
