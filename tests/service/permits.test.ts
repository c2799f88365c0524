import {
  KeyPermit,
  NOBODY,
  ProgramApproval,
  ProgramPermit,
  ProgramPolicy,
  permitKeys,
  permitOwnRecord,
  SecretPermit,
} from '@pindro/service/parts';
import { expect } from 'chai';

const program = { command: process.execPath, args: [], env: {} };

/* The expected errors below are checked when this file is compiled: without one the build fails. */
describe('a permit', () => {
  it('cannot be made outside of the policy, nor imitated', () => {
    // @ts-expect-error the constructor is private
    const start = () => new ProgramPermit(program);
    // @ts-expect-error the constructor is private
    const approve = () => new ProgramApproval({ ...program, files: [] }, 'ines');
    // @ts-expect-error the constructor is private
    const decrypt = () => new SecretPermit('credential:lift-key');
    // @ts-expect-error the constructor is private
    const issue = () => new KeyPermit({ name: 'ines', role: 'owner' });
    // @ts-expect-error an object of the same shape is none
    const imitated: ProgramPermit = { program };
    // @ts-expect-error nor is one with the same getters
    const secret: SecretPermit = { belongsTo: 'credential:lift-key' };
    expect([start, approve, decrypt, issue, imitated, secret]).to.have.length(6);
  });

  it('is refused without the authority for it', async () => {
    expect(() => permitKeys(NOBODY)).to.throw('has the role viewer');
    expect(permitKeys({ name: 'ines', role: 'builder' }).manages).to.equal(false);
    expect(() => permitOwnRecord('credential:lift-key')).to.throw('not an encrypted record');
    const policy = new ProgramPolicy(['any'], true);
    const refused = async (work: Promise<unknown>) =>
      work.then(
        () => 'permitted',
        (error: { code: string }) => error.code,
      );
    expect(await refused(policy.permit('trails', program, null))).to.equal('program_not_allowed');
    expect(await refused(policy.approve({ name: 'ines', role: 'builder' }, program, 'trails'))).to.equal(
      'role_too_low',
    );
    const approval = await policy.approve({ name: 'marit', role: 'owner' }, program, 'trails');
    expect(await refused(policy.permit('trails', program, approval))).to.equal('permitted');
    expect(await refused(policy.permit('trails', { ...program, args: ['-e', '1'] }, approval))).to.equal(
      'program_not_allowed',
    );
    const stored = policy.stored(approval.toText(), program);
    expect(stored!.fingerprint.files[0])
      .to.have.property('sha256')
      .that.matches(/^[0-9a-f]{64}$/);
    expect(await refused(new ProgramPolicy(['none'], true).permit('trails', program, stored))).to.equal(
      'program_forbidden',
    );
    const forged = { ...approval.fingerprint, files: [{ path: process.execPath, sha256: '0'.repeat(64) }] };
    expect(await refused(policy.approve({ name: 'marit', role: 'owner' }, program, 'trails', forged))).to.equal(
      'program_changed',
    );
    for (const text of ['', '{', '{"by":"marit"}', JSON.stringify({ by: 'marit', ...program })])
      expect(policy.stored(text, program), text).to.equal(null);
  });
});
