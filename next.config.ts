import type { NextConfig } from 'next';

const config: NextConfig = {
  // Native and thread-spawning packages stay outside the bundle.
  serverExternalPackages: [
    'better-sqlite3',
    'piscina',
    'pdfkit',
    'pino',
    'node-taglib-sharp',
    'sharp',
    'undici',
    'prom-client',
    '@node-rs/argon2',
  ],
  // `npm test` runs the compiler by itself, over the tests as well.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  // Addresses of earlier versions of the API.
  rewrites: async () => [
    { source: '/api/lines/:path*', destination: '/api/rows/:path*' },
    { source: '/api/sendings/:path*', destination: '/api/transfers/:path*' },
  ],
  devIndicators: false,
};

export default config;
