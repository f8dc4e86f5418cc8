import { testMaterial } from '../../../tests/fixtures/limiter-holds';
import { KNOWN } from '../../../tests/fixtures/limiter-material';

testMaterial(KNOWN);
