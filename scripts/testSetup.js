import { register } from 'node:module';
import { register as compileTypeScript } from 'tsx/esm/api';

compileTypeScript();
register('./fromSources.js', import.meta.url);
